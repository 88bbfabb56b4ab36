import { useEffect, useRef } from "react";
import type { Face, JobDoc, MountDoc, PanelDoc } from "@/shared/api/client";
import { CaseLength } from "@/shared/job/CaseLength";
import { dropMounts, freeId } from "@/shared/job/edits";
import { DocNumber, DocSelect, DocTicks } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { num } from "@/shared/words/lists";
import { CHOICES, FACES, saidOfChoice, USUAL } from "@/shared/words/words";

const STEP_MM = 125;
const upper = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

const SIZES = USUAL.fan_sizes_mm;

type Props = {
  face: Face;
  number: number;
  light: (face: string | null) => void;
  onMount: (id: string | null) => void;
  chosen: string | null;
};

/** One side of the case: its panel and its mounts, edited in place. */
export function FaceSection({ face, number, light, onMount, chosen }: Props) {
  const { document, edit } = useJob();
  const mounts = (document.case.mounts ?? []).filter((m) => m.face === face);
  const add = () => {
    const used = (document.case.mounts ?? []).map((m) => m.id);
    const id = freeId(used, { front: "f", top: "t", rear: "r", bottom: "b", window: "s" }[face], true);
    edit(`add mount ${id.toUpperCase()}`, (d) => addMount(d, face, id));
    onMount(id);
  };
  return (
    <section className="flex flex-col gap-3" onFocus={() => light(face)} data-face={face}>
      <Head remark={mounts.length ? `${mounts.length} mount${mounts.length === 1 ? "" : "s"}` : "no mounts"}>
        {number} {upper(saidOfChoice(FACES, face))}
      </Head>
      <PanelFields face={face} />
      {(face === "front" || face === "rear") && <SetBackFields face={face} />}
      <RowFields face={face} />
      {mounts.map((m) => (
        <MountFields key={m.id} mount={m} on={chosen === m.id} onMount={onMount} />
      ))}
      <div>
        <Button small onClick={add}>
          Add a mount at {saidOfChoice(FACES, face)}
        </Button>
      </div>
    </section>
  );
}

/** A face that stands inward of the end of the case, evenly or slanted. */
function SetBackFields({ face }: { face: "front" | "rear" }) {
  const { document, edit } = useJob();
  const own = document.case.set_back?.find((s) => s.face === face);
  const set = (which: "top_mm" | "bottom_mm") => (v: number | null) =>
    edit(`${face} set back`, (d) => {
      const rest = (d.case.set_back ?? []).filter((s) => s.face !== face);
      const next = { face, top_mm: 0, bottom_mm: 0, ...own, [which]: num(v) };
      d.case.set_back = next.top_mm || next.bottom_mm ? [...rest, next] : rest;
    });
  const shared = { kind: "length" as const, low: 0, high: document.case.inner_mm.depth / 3, optional: "0" };
  return (
    <div className="flex flex-wrap items-end gap-3" data-set-back={face}>
      <NumberField {...shared} label="Set back at its top" value={own?.top_mm || null} onCommit={set("top_mm")} />
      <NumberField {...shared} label="Set back at its bottom" value={own?.bottom_mm || null} onCommit={set("bottom_mm")} />
      <span className="pb-1.5 text-fine text-faint">
        {own ? "Its mounts stand on it; a slanted face has two figures." : "Leave both at 0 for a straight face."}
      </span>
    </div>
  );
}

/** The mounts of a face moved together. */
function RowFields({ face }: { face: Face }) {
  const { document, edit } = useJob();
  const row = (document.case.mounts ?? []).filter((m) => m.face === face && !m.on_shroud);
  if (row.length < 2) return null;
  const upright = face === "front" || face === "rear";
  const inner = document.case.inner_mm;
  const axes = [
    { axis: upright ? ("z" as const) : ("x" as const), words: upright ? "over the floor" : "from the front" },
    face === "window" ? { axis: "z" as const, words: "over the floor" } : { axis: "y" as const, words: "from the tray" },
  ];
  const most = { x: inner.depth, y: inner.width, z: inner.height };
  return (
    <div className="flex flex-wrap items-end gap-3" data-row-of={face}>
      {axes.map(({ axis, words }) => {
        const middle = row.reduce((sum, m) => sum + m.centre_mm[axis], 0) / row.length;
        return (
          <NumberField
            key={axis}
            label={`All ${row.length}, middle ${words}`}
            kind="length"
            low={0}
            high={most[axis]}
            value={middle}
            onCommit={(v) =>
              v !== null &&
              edit(`move the ${face}'s row`, (d) => {
                for (const m of d.case.mounts ?? [])
                  if (m.face === face && !m.on_shroud) m.centre_mm[axis] = Math.round((m.centre_mm[axis] + v - middle) * 10) / 10;
              })
            }
          />
        );
      })}
    </div>
  );
}

/** A new mount beside the last one of its face, in the middle of the width. */
function addMount(d: JobDoc, face: Face, id: string) {
  const { depth, height, width } = d.case.inner_mm;
  const last = (d.case.mounts ?? []).filter((m) => m.face === face).at(-1)?.centre_mm;
  const floor = num(d.case.shroud?.height_mm);
  const along = (from: number, step: number, low: number, high: number) => Math.round(Math.min(Math.max(from + step, low), high));
  const across = last?.y ?? (num(d.case.card_side_mm) + width) / 2;
  const centre = {
    front: { x: 0, y: across, z: last ? along(last.z, -STEP_MM, floor + 60, height - 65) : height - 65 },
    rear: { x: depth, y: across, z: last ? along(last.z, -STEP_MM, 60, height - 65) : height - 85 },
    top: { x: last ? along(last.x, -STEP_MM, 60, depth - 65) : depth - 80, y: across, z: height },
    bottom: { x: last ? along(last.x, STEP_MM, 60, depth - 65) : 70, y: across, z: 0 },
    window: { x: last ? along(last.x, STEP_MM, 60, depth - 65) : depth / 2, y: width, z: height / 2 },
  }[face];
  d.case.mounts = [...(d.case.mounts ?? []), { id, face, centre_mm: centre, sizes_mm: [USUAL.wall_fan_mm] }];
}

const KINDS = CHOICES["panel.kind"];
const FILTERS = CHOICES["panel.filter"];
// A new panel starts with figures that are common; the person types their own over them.
const COMMON: Record<string, Partial<PanelDoc>> = { mesh: { open_area_pct: 45 }, slots: { gap_area_cm2: 90, turns_90: 2 } };

function PanelFields({ face }: { face: Face }) {
  const { document, edit } = useJob();
  const at = (document.case.panels ?? []).findIndex((p) => p.face === face);
  const panel = document.case.panels?.[at];
  const path = (name: string) => ["case", "panels", at, name];
  const choose = (value: string) =>
    edit(`${face} panel`, (d) => {
      const rest = (d.case.panels ?? []).filter((p) => p.face !== face);
      const kind = value as PanelDoc["kind"];
      d.case.panels = value ? [...rest, { filter: "none", ...COMMON[value], ...(panel ?? {}), face, kind }] : rest;
    });
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Select
        label="Panel"
        value={panel?.kind ?? ""}
        empty={face === "window" ? "closed sheet" : "none: bare sheet with its holes"}
        choices={KINDS}
        onChange={choose}
      />
      {panel?.kind === "mesh" && <DocNumber label="Free share of the mesh" path={path("open_area_pct")} kind="share" />}
      {panel?.kind === "slots" && (
        <>
          <DocNumber label="Slots in all" path={path("gap_area_cm2")} kind="area" />
          <DocNumber label="Right-angle turns" path={path("turns_90")} digits={0} />
        </>
      )}
      {panel && <DocSelect label="Filter" path={path("filter")} choices={FILTERS} />}
    </div>
  );
}

function MountFields({ mount, on, onMount }: { mount: MountDoc; on: boolean; onMount: (id: string | null) => void }) {
  const { document, edit } = useJob();
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (on) box.current?.scrollIntoView({ block: "nearest" });
  }, [on]);
  const inner = document.case.inner_mm;
  const name = mount.id.toUpperCase();
  const at = (document.case.mounts ?? []).findIndex((m) => m.id === mount.id);
  const lit = () => onMount(mount.id);
  const path = (...rest: string[]) => ["case", "mounts", at, ...rest];
  const set = (label: string, step: (m: MountDoc) => void) =>
    edit(`${name}: ${label}`, (d) => {
      const own = d.case.mounts?.[at];
      if (own) step(own);
    });
  const sizes = (value: number, wanted: boolean) =>
    set("fan sizes", (m) => {
      const next = wanted ? [...m.sizes_mm, value].sort((a, b) => a - b) : m.sizes_mm.filter((s) => s !== value);
      if (next.length) m.sizes_mm = next;
    });
  const alongX = mount.face !== "front" && mount.face !== "rear";
  const alongZ = mount.face !== "top" && mount.face !== "bottom";
  const share = { kind: "share" as const, onFocus: lit };
  const length = { kind: "length" as const, low: 0, onFocus: lit };
  return (
    <div
      ref={box}
      className={`flex flex-col gap-2 rounded-box border p-3 ${on ? "border-base-content bg-paper" : "hairline"}`}
      data-survey-mount={mount.id}
    >
      <div className="flex flex-wrap items-start gap-3">
        <strong className="wide min-w-8 pt-6 text-lead">{name}</strong>
        {alongX && <DocNumber label="Centre, from the front" path={path("centre_mm", "x")} high={inner.depth} {...length} />}
        {alongZ && <DocNumber label="Centre, over the floor" path={path("centre_mm", "z")} high={inner.height} {...length} />}
        {mount.face !== "window" && (
          <DocNumber label="Centre, from the tray" path={path("centre_mm", "y")} high={inner.width} {...length} />
        )}
        <CaseLength label="Depth free inside" path={path("depth_mm")} name={`mounts.${mount.id}.depth_mm`} onFocus={lit} />
        <DocNumber label="Free share of its grille" path={path("grille_open_pct")} {...share} />
      </div>
      {(document.case.slots || document.case.drives?.length) && (
        <div className="flex flex-wrap items-end gap-3">
          <DocNumber label="Costs slots, from below" path={path("takes_slots")} digits={0} />
          <DocTicks
            label="Costs drive places"
            path={path("takes_drives")}
            choices={(document.case.drives ?? []).map((d) => ({ value: d.id, words: d.name || d.id }))}
          />
        </div>
      )}
      <div className="flex flex-wrap items-center gap-3 text-small">
        <span className="text-faint">takes</span>
        {SIZES.map((s) => (
          <Tick key={s} words={String(s)} on={mount.sizes_mm.includes(s)} onChange={(wanted) => sizes(s, wanted)} />
        ))}
        <Tick
          words="covered when empty"
          on={mount.cover ?? false}
          onChange={(wanted) =>
            set("cover", (m) => {
              m.cover = wanted;
            })
          }
        />
        {mount.face === "bottom" && document.case.shroud && (
          <Tick
            words="on the shroud's roof"
            on={mount.on_shroud ?? false}
            onChange={(wanted) =>
              set("on the shroud", (m) => {
                m.on_shroud = wanted;
                m.centre_mm.z = wanted ? num(document.case.shroud?.height_mm) : 0;
              })
            }
          />
        )}
        <span className="ml-auto">
          <Button small onClick={() => edit(`remove mount ${name}`, (d) => dropMounts(d, [mount.id]))}>
            remove {name}
          </Button>
        </span>
      </div>
    </div>
  );
}

function Tick({ words, on, onChange }: { words: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1">
      <input type="checkbox" className="checkbox checkbox-xs" checked={on} onChange={(e) => onChange(e.target.checked)} />
      {words}
    </label>
  );
}
