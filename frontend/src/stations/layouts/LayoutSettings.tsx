import { useState } from "react";
import type { Face, LayoutDoc } from "@/shared/api/client";
import { useLineage } from "@/shared/api/hooks";
import { curveChoices, layoutOf, setting } from "@/shared/job/edits";
import { DocNumber, DocSelect, DocText } from "@/shared/job/fields";
import { Rows } from "@/shared/job/Rows";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Select } from "@/shared/ui/bits";
import { CAUTIONS, Caution } from "@/shared/ui/Caution";
import { NumberField } from "@/shared/ui/NumberField";
import { Loops } from "./Loops";

/** Name of the layout, and what it sets beside its fans: cooler, radiator, panels, card. */
export function LayoutSettings({ layout }: { layout: LayoutDoc }) {
  const { edit } = useJob();
  const [open, setOpen] = useState(false);
  const off = Object.entries(layout.panels ?? {}).filter(([, p]) => p?.state === "removed");
  const made = Object.entries(layout.panels ?? {}).filter(([, p]) => p?.improvised || (p?.blocked_pct ?? 0) > 0);
  const change = (label: string, step: (x: LayoutDoc) => void) =>
    edit(label, (d) => {
      const own = layoutOf(d, layout.id);
      if (own) step(own);
    });
  return (
    <header className="px-4 pt-2">
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <h1 className="flex items-baseline gap-2 text-[19px]">
          {layout.id},
          <input
            aria-label="Name of the layout"
            className="w-64 bg-transparent"
            value={layout.name ?? ""}
            placeholder="name this layout"
            onChange={(e) =>
              change(`rename ${layout.id}`, (x) => {
                x.name = e.target.value;
              })
            }
          />
        </h1>
        <button
          type="button"
          className="cursor-pointer text-[13px] underline underline-offset-2"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {open ? "hide" : "cooler, loops, panels, groups, notes"}
        </button>
      </div>
      {layout.parent && <Lineage layout={layout} />}
      {open && <Fields layout={layout} change={change} />}
      {layout.open_bench && <p className="text-[13px]">On the open bench: no walls, the zero line to hold the others against.</p>}
      {made.length > 0 && (
        <div className="mt-2 flex flex-col gap-1 text-[13px]">
          <p>
            <strong>Improvised:</strong> {made.map(([face]) => `${face} panel`).join(", ")}. Every chart of this layout says so.
          </p>
          <Caution>{CAUTIONS.improvised}</Caution>
        </div>
      )}
      {off.length > 0 && (
        <div className="mt-2">
          <Caution>{CAUTIONS.panel}</Caution>
        </div>
      )}
    </header>
  );
}

/** What this layout was made from, and every thing done to it since. */
function Lineage({ layout }: { layout: LayoutDoc }) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const { data } = useLineage({ document, layout: layout.id, conditions }, true);
  if (!data?.parent) return null;
  return (
    <p className="text-[13px] text-faint" data-lineage={data.lines.length}>
      from {data.parent}: {data.lines.length ? data.lines.join("; ") : "nothing changed yet"}
    </p>
  );
}

const TOWER_WAYS = [
  { value: "rear", words: "to the rear" },
  { value: "up", words: "up" },
  { value: "front", words: "to the front" },
];
const DOWNDRAFT_WAYS = [
  { value: "toward", words: "toward the board" },
  { value: "away", words: "away from the board" },
];
const FAN_SIDES = [
  { value: "above", words: "above its fins" },
  { value: "below", words: "below its fins" },
];
export const TUBE_WAYS = [
  { value: "rear", words: "to the rear" },
  { value: "front", words: "to the front" },
  { value: "top", words: "at the top" },
  { value: "bottom", words: "at the bottom" },
];
const CARD_WAYS = [
  { value: "flat", words: "flat" },
  { value: "upright", words: "upright, fans to the window" },
];
export type Change = (label: string, step: (x: LayoutDoc) => void) => void;

function Fields({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const parts = document.parts ?? {};
  const at = (document.layouts ?? []).findIndex((x) => x.id === layout.id);
  const path = (name: string) => ["layouts", at, name];
  const coolerId = setting(document, layout, "cooler") ?? "";
  const cooler = parts.coolers?.find((c) => c.id === coolerId);
  const curved = (document.curves?.length ?? 0) > 0;
  return (
    <div className="my-2 flex max-h-72 flex-col gap-3 overflow-y-auto rounded-box border hairline bg-paper p-3">
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="Cooler"
          value={coolerId}
          choices={(parts.coolers ?? []).map((c) => ({ value: c.id, words: c.name || c.id }))}
          onChange={(v) =>
            change(`cooler of ${layout.id}`, (x) => {
              x.cooler = v;
              delete x.cooler_direction;
            })
          }
        />
        {layout.loops?.length ? null : cooler && (cooler.kind === "sealed" || cooler.kind === "open_loop") ? (
          <RadiatorFields layout={layout} change={change} />
        ) : (
          <>
            <DocSelect
              label="Cooler blows"
              path={path("cooler_direction")}
              fallback={cooler?.kind === "downdraft" ? "toward" : "rear"}
              choices={cooler?.kind === "downdraft" ? DOWNDRAFT_WAYS : TOWER_WAYS}
            />
            <DocNumber
              label="Cooler fan"
              path={path("cooler_fan_pct")}
              kind="share"
              low={0}
              high={100}
              fallback={document.base?.cooler_fan_pct ?? 100}
            />
            {cooler?.kind === "downdraft" && (
              <DocSelect label="Its fan sits" path={path("cooler_fan_side")} fallback="above" choices={FAN_SIDES} />
            )}
            {curved && (
              <DocSelect
                label="Cooler fan runs at"
                path={path("cooler_curve")}
                fallback={document.base?.cooler_curve ?? ""}
                choices={curveChoices(document)}
              />
            )}
            <DocNumber label="Its fan raised by" path={path("cooler_fan_lift_mm")} kind="length" low={0} high={60} fallback={0} />
          </>
        )}
        <DocSelect label="Card stands" path={path("card_orientation")} fallback="flat" choices={CARD_WAYS} />
        <DocNumber
          label="Card fans"
          path={path("card_fan_pct")}
          kind="share"
          low={0}
          high={100}
          fallback={document.base?.card_fan_pct ?? 100}
        />
        {curved && (
          <DocSelect
            label="Card fans run at"
            path={path("card_curve")}
            fallback={document.base?.card_curve ?? ""}
            choices={curveChoices(document)}
          />
        )}
      </div>
      <div className="flex flex-wrap items-end gap-3">
        {(
          [
            ["board", "Board", parts.boards],
            ["memory", "Memory", parts.memory],
            ["supply", "Power supply", parts.supplies],
          ] as const
        ).map(
          ([name, words, list]) =>
            (list?.length ?? 0) > 1 && (
              <DocSelect
                key={name}
                label={words}
                path={path(name)}
                fallback={document.base?.[name] ?? ""}
                choices={(list ?? []).map((p) => ({ value: p.id, words: p.name || p.id }))}
              />
            ),
        )}
      </div>
      <Loops layout={layout} change={change} />
      <PanelStates layout={layout} change={change} />
      <Groups at={at} />
      <Notes layout={layout} at={at} change={change} />
      {(cooler?.kind === "sealed" || layout.loops?.length) && <Caution>{CAUTIONS.cooler}</Caution>}
    </div>
  );
}

function RadiatorFields({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const radiators = document.parts?.radiators ?? [];
  const mounts = document.case.mounts ?? [];
  const place = layout.radiator;
  const path = ["layouts", (document.layouts ?? []).findIndex((x) => x.id === layout.id), "radiator"];
  const part = radiators.find((r) => r.id === (place?.radiator ?? radiators[0]?.id));
  if (!radiators.length) return <p className="text-[13px] text-warning">A sealed cooler needs a radiator: add one in Parts.</p>;
  const put = (radiator: string, chosen: string[]) =>
    change(`radiator of ${layout.id}`, (x) => {
      x.radiator = chosen.length ? { ...(x.radiator ?? {}), radiator, mounts: chosen } : null;
    });
  return (
    <>
      <Select
        label="Radiator"
        value={part?.id ?? ""}
        choices={radiators.map((r) => ({ value: r.id, words: r.name || r.id }))}
        onChange={(v) => put(v, place?.mounts ?? [])}
      />
      <fieldset className="flex flex-col gap-0.5">
        <legend className="text-[12.5px] text-faint">stands on mounts</legend>
        <div className="flex flex-wrap gap-2">
          {mounts.map((m) => (
            <label key={m.id} className="flex items-center gap-1 text-[13px]">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={place?.mounts.includes(m.id) ?? false}
                onChange={(e) => {
                  const now = place?.mounts ?? [];
                  const same = now.filter((id) => id !== m.id && mounts.find((o) => o.id === id)?.face === m.face);
                  if (part) put(part.id, e.target.checked ? [...same, m.id] : now.filter((id) => id !== m.id));
                }}
              />
              {m.id.toUpperCase()}
            </label>
          ))}
        </div>
      </fieldset>
      {place && (
        <>
          <DocNumber label="Gap to its fans" path={[...path, "gap_mm"]} kind="length" low={0} high={60} fallback={0} />
          <DocSelect label="Tubes leave it" path={[...path, "tubes"]} fallback="rear" choices={TUBE_WAYS} />
        </>
      )}
    </>
  );
}

const STATES = [
  { value: "fitted", words: "fitted" },
  { value: "removed", words: "off" },
  { value: "stood_off", words: "stood off" },
  { value: "angled", words: "at an angle" },
] as const;
type PanelState = NonNullable<NonNullable<LayoutDoc["panels"]>[Face]>;

function PanelStates({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const faces = new Set<Face>([...(document.case.panels ?? []).map((p) => p.face), "window"]);
  const states = layout.panels ?? {};
  const set = (face: Face, next: Partial<PanelState>) =>
    change(`${face} panel in ${layout.id}`, (x) => {
      const panels = { ...(x.panels ?? {}) };
      const one = { ...(panels[face] ?? {}), ...next } as PanelState;
      if ((one.state ?? "fitted") === "fitted" && !one.blocked_pct && !one.improvised && !one.kind) delete panels[face];
      else panels[face] = one;
      x.panels = panels;
    });
  return (
    <div className="flex flex-wrap items-end gap-3">
      {[...faces].map((face) => {
        const own = states[face];
        return (
          <div key={face} className="flex items-end gap-1.5" data-panel={face}>
            <Select
              label={`${face} panel`}
              value={own?.state ?? "fitted"}
              choices={[...STATES]}
              onChange={(v) => {
                const state = v as PanelState["state"];
                set(face, {
                  state,
                  ...(v === "stood_off" ? { stand_off_mm: 10 } : {}),
                  ...(v === "angled" ? { angle_deg: 10 } : {}),
                });
              }}
            />
            {own?.state === "stood_off" && (
              <NumberField
                label={`${face} panel stands off by`}
                compact
                kind="length"
                low={1}
                high={200}
                value={own.stand_off_mm ?? 10}
                onCommit={(v) => set(face, { stand_off_mm: v ?? 10 })}
              />
            )}
            {own?.state === "angled" && (
              <NumberField
                label={`${face} panel's angle in degrees`}
                compact
                digits={0}
                low={1}
                high={80}
                value={own.angle_deg ?? 10}
                onCommit={(v) => set(face, { angle_deg: v ?? 10 })}
              />
            )}
            {own?.state !== "removed" && (
              <NumberField
                label={`${face}: blocked`}
                kind="share"
                low={0}
                high={99}
                value={own?.blocked_pct ?? 0}
                onCommit={(v) => set(face, { blocked_pct: v ?? 0 })}
              />
            )}
            {own && (
              <label className="flex items-center gap-1 pb-1.5 text-[13px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={own.improvised ?? false}
                  onChange={(e) => set(face, { improvised: e.target.checked })}
                />
                improvised
              </label>
            )}
          </div>
        );
      })}
      {Object.keys(states).length > 0 && (
        <Button
          small
          onClick={() =>
            change(`all panels on in ${layout.id}`, (x) => {
              x.panels = {};
            })
          }
        >
          all panels on
        </Button>
      )}
    </div>
  );
}

/** Fans that turn together; a fan is put into a group where it stands. */
function Groups({ at }: { at: number }) {
  const { document } = useJob();
  const curved = (document.curves?.length ?? 0) > 0;
  return (
    <div className="flex flex-col gap-1">
      <span className="text-[12.5px] text-faint">Fan groups: one speed or one curve for several fans</span>
      <Rows
        path={["layouts", at, "groups"]}
        one="a group"
        stem="group "
        fresh={(id) => ({ name: id, speed_pct: 60 })}
        title={(row) => row.name ?? row.id}
        fields={[
          { name: "name", words: "Name", as: "text" },
          { name: "speed_pct", words: "Speed", kind: "share", low: 0, high: 100, fallback: 100 },
          ...(curved ? [{ name: "curve", words: "Runs at", choices: curveChoices(document) }] : []),
        ]}
      />
    </div>
  );
}

const MOST_PICTURE_BYTES = 400_000;

/** What belongs to a layout and is no air: work, looks, dust, a picture, a note. */
function Notes({ layout, at, change }: { layout: LayoutDoc; at: number; change: Change }) {
  const [fault, setFault] = useState("");
  const path = (name: string) => ["layouts", at, name];
  const take = (file: File) => {
    if (!file.type.startsWith("image/") || file.size > MOST_PICTURE_BYTES)
      return setFault(`A picture of at most ${MOST_PICTURE_BYTES / 1000} kB, please; make it smaller first.`);
    setFault("");
    const reader = new FileReader();
    reader.onload = () =>
      change(`picture of ${layout.id}`, (x) => {
        x.picture = String(reader.result);
      });
    reader.readAsDataURL(file);
  };
  return (
    <div className="flex flex-wrap items-end gap-3">
      <DocText label="Note" path={path("note")} wide />
      <DocNumber label="Minutes of work" path={path("labour_min")} low={0} high={6000} digits={0} optional="not known" />
      <DocText label="Looks" path={path("looks")} />
      <DocText label="Dust and cleaning" path={path("dust_access")} />
      <label className="btn btn-outline btn-sm focus-within:outline-2">
        {layout.picture ? "Another picture" : "Picture"}
        <input
          type="file"
          accept="image/*"
          className="sr-only"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) take(file);
          }}
        />
      </label>
      {layout.picture && (
        <>
          <img src={layout.picture} alt={`Layout ${layout.id} as built`} className="h-12 rounded border hairline" />
          <Button
            small
            onClick={() =>
              change(`no picture of ${layout.id}`, (x) => {
                x.picture = "";
              })
            }
          >
            take it off
          </Button>
        </>
      )}
      {fault && (
        <p role="alert" className="text-[13px] text-error">
          {fault}
        </p>
      )}
    </div>
  );
}
