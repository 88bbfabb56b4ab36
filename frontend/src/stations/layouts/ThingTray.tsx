import type { LayoutDoc } from "@/shared/api/client";
import type { Thing } from "@/shared/cutaway/Touch";
import { curveChoices, layoutOf, setting } from "@/shared/job/edits";
import { DocNumber, DocSelect } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { count, has } from "@/shared/words/lists";
import { CAUTIONS, USUAL } from "@/shared/words/words";
import { CARD_WAYS, type Change, DOWNDRAFT_WAYS, FAN_SIDES, TOWER_WAYS } from "./choices";
import { Groups, Notes } from "./LayoutNotes";
import { Loops } from "./Loops";
import { PanelStates } from "./PanelStates";
import { RadiatorFields } from "./RadiatorFields";

const THINGS: { thing: Thing; words: string }[] = [
  { thing: "cooler", words: "cooler, loop" },
  { thing: "card", words: "card" },
  { thing: "panels", words: "panels" },
  { thing: "inside", words: "board, supply" },
  { thing: "groups", words: "fan groups" },
  { thing: "notes", words: "notes" },
];

export const thingWords = (thing: Thing) => {
  const words = THINGS.find((t) => t.thing === thing)?.words ?? thing;
  return words.charAt(0).toUpperCase() + words.slice(1);
};

/** What can be set in a layout beside its fans, by name: the same that can be chosen in the drawing. */
export function ThingBar({ thing, onThing }: { thing: Thing | null; onThing: (thing: Thing | null) => void }) {
  return (
    <nav className="flex flex-wrap items-baseline gap-x-3 gap-y-1 text-small" aria-label="What is set">
      {THINGS.map((t) => (
        <button
          key={t.thing}
          type="button"
          aria-pressed={t.thing === thing}
          className={`cursor-pointer ${t.thing === thing ? "font-semibold underline decoration-2" : "underline"} underline-offset-3`}
          onClick={() => onThing(t.thing === thing ? null : t.thing)}
        >
          {t.words}
        </button>
      ))}
    </nav>
  );
}

/** The settings of what was chosen in the drawing. */
export function ThingTray({ layout, thing }: { layout: LayoutDoc; thing: Thing }) {
  const { document, edit } = useJob();
  const at = (document.layouts ?? []).findIndex((x) => x.id === layout.id);
  const change: Change = (label, step) =>
    edit(label, (d) => {
      const own = layoutOf(d, layout.id);
      if (own) step(own);
    });
  const own = { layout, at, change };
  return (
    <section className="flex flex-col gap-3" aria-label={THINGS.find((t) => t.thing === thing)?.words} data-tray={thing}>
      {thing === "cooler" && <CoolerFields {...own} />}
      {thing === "card" && <CardFields {...own} />}
      {thing === "panels" && <PanelStates layout={layout} change={change} />}
      {thing === "inside" && <InsideFields at={at} />}
      {thing === "groups" && <Groups at={at} />}
      {thing === "notes" && <Notes {...own} />}
    </section>
  );
}

type Own = { layout: LayoutDoc; at: number; change: Change };

function CoolerFields({ layout, at, change }: Own) {
  const { document } = useJob();
  const path = (name: string) => ["layouts", at, name];
  const coolers = document.parts?.coolers ?? [];
  const coolerId = setting(document, layout, "cooler") ?? "";
  const cooler = coolers.find((c) => c.id === coolerId);
  const wet = cooler?.kind === "sealed" || cooler?.kind === "open_loop";
  const down = cooler?.kind === "downdraft";
  return (
    <>
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="Cooler"
          value={coolerId}
          choices={coolers.map((c) => ({ value: c.id, words: c.name || c.id }))}
          onChange={(v) =>
            change(`cooler of ${layout.id}`, (x) => {
              x.cooler = v;
              delete x.cooler_direction;
            })
          }
        />
        {layout.loops?.length ? null : wet ? (
          <RadiatorFields layout={layout} change={change} />
        ) : (
          <>
            <DocSelect
              label="Cooler blows"
              path={path("cooler_direction")}
              fallback={down ? "toward" : "rear"}
              choices={down ? DOWNDRAFT_WAYS : TOWER_WAYS}
            />
            <DocNumber
              label="Cooler fan"
              path={path("cooler_fan_pct")}
              kind="share"
              fallback={document.base?.cooler_fan_pct ?? USUAL.base.cooler_fan_pct}
            />
            {down && <DocSelect label="Its fan sits" path={path("cooler_fan_side")} choices={FAN_SIDES} />}
            {has(document.curves) && (
              <DocSelect
                label="Cooler fan runs at"
                path={path("cooler_curve")}
                fallback={document.base?.cooler_curve ?? ""}
                choices={curveChoices(document)}
              />
            )}
            <DocNumber label="Its fan raised by" path={path("cooler_fan_lift_mm")} kind="length" />
          </>
        )}
      </div>
      <Loops layout={layout} change={change} />
      {(cooler?.kind === "sealed" || layout.loops?.length) && <Caution>{CAUTIONS.cooler}</Caution>}
    </>
  );
}

function CardFields({ at }: Own) {
  const { document } = useJob();
  const path = (name: string) => ["layouts", at, name];
  const cards = document.parts?.cards ?? [];
  return (
    <div className="flex flex-wrap items-end gap-3">
      {count(cards) > 1 && (
        <DocSelect
          label="Card"
          path={path("card")}
          fallback={document.base?.card ?? ""}
          choices={cards.map((c) => ({ value: c.id, words: c.name || c.id }))}
        />
      )}
      <DocSelect label="Card stands" path={path("card_orientation")} choices={CARD_WAYS} />
      <DocNumber
        label="Card fans"
        path={path("card_fan_pct")}
        kind="share"
        fallback={document.base?.card_fan_pct ?? USUAL.base.card_fan_pct}
      />
      {has(document.curves) && (
        <DocSelect
          label="Card fans run at"
          path={path("card_curve")}
          fallback={document.base?.card_curve ?? ""}
          choices={curveChoices(document)}
        />
      )}
    </div>
  );
}

function InsideFields({ at }: { at: number }) {
  const { document } = useJob();
  const parts = document.parts ?? {};
  const rows = (
    [
      ["board", "Board", parts.boards],
      ["memory", "Memory", parts.memory],
      ["supply", "Power supply", parts.supplies],
    ] as const
  ).filter(([, , list]) => has(list));
  if (!rows.length)
    return <p className="text-small">Board, memory and power supply are taken from the tray in Parts; none is there yet.</p>;
  return (
    <div className="flex flex-wrap items-end gap-3">
      {rows.map(([name, words, list]) => (
        <DocSelect
          key={name}
          label={words}
          path={["layouts", at, name]}
          fallback={document.base?.[name] ?? ""}
          choices={[{ value: "", words: "none" }, ...(list ?? []).map((p) => ({ value: p.id, words: p.name || p.id }))]}
        />
      ))}
    </div>
  );
}
