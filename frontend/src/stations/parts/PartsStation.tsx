import { Link } from "@tanstack/react-router";
import type { Schemas } from "@/shared/api/client";
import { useLibrary, useShelf } from "@/shared/api/hooks";
import { freeId } from "@/shared/job/edits";
import { DocField, DocNumber, writeAt } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { missingParts, useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Select, TextField } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { CAUTIONS, within } from "@/shared/words/words";
import { CoolerAdvice } from "./CoolerAdvice";
import { CurvesSection } from "./CurvesSection";
import { FanCurve } from "./FanCurve";
import { Headers } from "./Headers";
import { KINDS, type PartKind } from "./kinds";
import { PartsFiles } from "./PartsFiles";
import { Tray } from "./Tray";

/** The tray on the table: what gives off heat, what moves it away, what is on hand. */
export function PartsStation() {
  const { document, id } = useJob();
  const lacks = missingParts(document);
  const { layoutId } = useWorkbench();
  const shelf = useShelf(document, layoutId || document.layouts?.[0]?.id);
  return (
    <div className="mx-auto flex max-w-5xl flex-col gap-7 p-5">
      <header>
        <h1 className="text-title">Parts on the table</h1>
        <p className="text-small text-faint">
          Take a part from the tray as a start (they are invented), then type the figures of your own part's sheet over it. Under
          each stands whether it fits this case, and where it would run with the fans of the layout at hand.
        </p>
      </header>
      <PartsFiles />
      <CoolerAdvice />
      {KINDS.map((kind) => (
        <KindSection key={kind.name} kind={kind} rows={shelf.data ?? []} />
      ))}
      <CurvesSection />
      <section className="flex flex-col gap-3">
        <Head>The rest</Head>
        <DocNumber label="Board, memory and drives give off" path={["parts", "board_power_w"]} kind="power" />
      </section>
      <Caution>{CAUTIONS.cooler}</Caution>
      {lacks.length ? (
        <p className="text-body">
          <strong>Still needed:</strong> {lacks.join(", ")}.
        </p>
      ) : (
        <Link to="/jobs/$jobId/layouts" params={{ jobId: String(id) }} className="btn btn-primary btn-sm self-start">
          Next: put fans in the case
        </Link>
      )}
    </div>
  );
}

type AnyPart = { id: string; name?: string } & Record<string, unknown>;

function KindSection({ kind, rows }: { kind: PartKind; rows: Schemas["ShelfRow"][] }) {
  const { document, edit } = useJob();
  const library = useLibrary();
  const own = (document.parts?.[kind.name] ?? []) as AnyPart[];
  const shelf = ((library.data?.[kind.name] ?? []) as { name: string; figures: AnyPart }[]).map((t) => t.figures);
  const add = (partId: string) => {
    const figures = shelf.find((f) => f.id === partId);
    if (!figures) return;
    const fresh = {
      ...structuredClone(figures),
      id: freeId(
        own.map((p) => p.id),
        figures.id,
      ),
    };
    edit(`add ${figures.name}`, (d) => {
      const parts = { ...(d.parts ?? {}) } as Record<string, unknown>;
      parts[kind.name] = [...own, fresh];
      const fan = figures.fan as string | undefined;
      const fans = (parts.fans ?? []) as AnyPart[];
      const fanOnShelf = library.data?.fans.find((t) => t.figures.id === fan);
      if (fan && fanOnShelf && !fans.some((f) => f.id === fan)) parts.fans = [...fans, structuredClone(fanOnShelf.figures)];
      d.parts = parts as Schemas["PartsDoc"];
      if (kind.base && !d.base?.[kind.base]) d.base = { ...(d.base ?? {}), [kind.base]: fresh.id };
    });
  };
  return (
    <section className="flex flex-col gap-3" data-kind={kind.name}>
      <Head remark={kind.remark}>{kind.words}</Head>
      {own.map((part) => (
        <PartRow key={part.id} kind={kind} part={part} />
      ))}
      <details open={!own.length || undefined} className="text-small">
        <summary className="mb-1.5 cursor-pointer">{own.length ? `More on the tray: ${shelf.length}` : "On the tray"}</summary>
        <Tray kind={kind} parts={shelf} rows={rows} onTake={add} />
      </details>
      <div>
        <Select
          label={`Add ${kind.one}`}
          compact
          value=""
          empty={`Add ${kind.one} by name …`}
          choices={shelf.map((f) => ({ value: f.id, words: f.name ?? f.id }))}
          onChange={add}
        />
      </div>
    </section>
  );
}

function PartRow({ kind, part }: { kind: PartKind; part: AnyPart }) {
  const { document, edit } = useJob();
  const at = ((document.parts?.[kind.name] ?? []) as AnyPart[]).findIndex((p) => p.id === part.id);
  const used = kind.base ? document.base?.[kind.base] === part.id : false;
  const inUse = usedBy(document, kind, part.id);
  return (
    <div
      className={`flex flex-col gap-2 rounded-box border p-3 ${used ? "border-base-content bg-paper" : "hairline"}`}
      data-part={part.id}
    >
      <div className="flex flex-wrap items-center gap-3">
        <TextField
          label="Name"
          compact
          value={part.name ?? part.id}
          onChange={(v) => edit("name of a part", (d) => writeAt(d, ["parts", kind.name, at, "name"], v))}
        />
        {kind.base && (
          <label className="flex items-center gap-1.5 text-small">
            <input
              type="radio"
              className="radio radio-sm"
              name={`base-${kind.name}`}
              checked={used}
              onChange={() =>
                edit(`use ${part.name ?? part.id}`, (d) => {
                  if (kind.base) d.base = { ...(d.base ?? {}), [kind.base]: part.id };
                })
              }
            />
            in the machine
          </label>
        )}
        {kind.name === "fans" && <OnHand fan={part.id} />}
        {typeof part.kind === "string" && kind.name === "coolers" && <span className="text-small text-faint">{part.kind}</span>}
        <span className="ml-auto">
          <Button
            small
            disabled={Boolean(inUse)}
            title={inUse ? `Still used by ${inUse}` : undefined}
            onClick={() =>
              edit(`take ${part.name ?? part.id} off the table`, (d) => {
                const parts = (d.parts ?? {}) as Record<string, unknown>;
                parts[kind.name] = ((parts[kind.name] ?? []) as AnyPart[]).filter((p) => p.id !== part.id);
                if (kind.base && d.base?.[kind.base] === part.id) d.base = { ...d.base, [kind.base]: null };
                if (kind.name === "fans" && d.stock?.fans) delete d.stock.fans[part.id];
              })
            }
          >
            {inUse ? `used by ${inUse}` : "take off"}
          </Button>
        </span>
      </div>
      <div className="flex flex-wrap gap-3">
        {kind.fields
          .filter((f) => !f.only || f.only.includes(String(part.kind)))
          .map((f) => (
            <DocField key={f.name} spec={f} path={["parts", kind.name, at]} />
          ))}
      </div>
      {kind.name === "fans" && <FanCurve part={part} at={at} />}
      {kind.name === "boards" && <Headers at={at} />}
      {kind.caution && <Caution>{CAUTIONS[kind.caution]}</Caution>}
      {part.kind === "open_loop" && <Caution>{CAUTIONS.openLoop}</Caution>}
    </div>
  );
}

/** How many of a kind of fan are there; nobody has to count. */
function OnHand({ fan }: { fan: string }) {
  const { document, edit } = useJob();
  return (
    <span className="flex items-center gap-1.5 text-small">
      on hand
      <NumberField
        label="On hand"
        compact
        digits={0}
        {...within("stock.fans.*")}
        optional="not counted"
        value={document.stock?.fans?.[fan] ?? null}
        onCommit={(v) =>
          edit("count of a fan", (d) => {
            const fans = { ...(d.stock?.fans ?? {}) };
            if (v === null) delete fans[fan];
            else fans[fan] = Math.round(v);
            d.stock = { ...(d.stock ?? {}), fans };
          })
        }
      />
    </span>
  );
}

function usedBy(
  document: {
    layouts?: {
      id: string;
      fans?: { fan: string }[];
      radiator?: { radiator: string } | null;
      loops?: { cooler: string; radiators?: { radiator: string }[] }[] | null;
      wiring?: { via?: string | null }[];
      board?: string | null;
      memory?: string | null;
      supply?: string | null;
      cooler?: string | null;
      card?: string | null;
      cpu?: string | null;
    }[];
    parts?: { coolers?: { fan?: string | null; name?: string; id: string }[] };
  },
  kind: PartKind,
  id: string,
): string | null {
  for (const layout of document.layouts ?? []) {
    const here =
      (kind.name === "fans" && layout.fans?.some((f) => f.fan === id)) ||
      (kind.name === "radiators" &&
        (layout.radiator?.radiator === id || layout.loops?.some((l) => l.radiators?.some((r) => r.radiator === id)))) ||
      (kind.name === "coolers" && layout.loops?.some((l) => l.cooler === id)) ||
      (kind.name === "controllers" && layout.wiring?.some((w) => w.via === id)) ||
      (kind.base && layout[kind.base] === id);
    if (here) return `layout ${layout.id}`;
  }
  const cooler = kind.name === "fans" && document.parts?.coolers?.find((c) => c.fan === id);
  return cooler ? cooler.name || cooler.id : null;
}
