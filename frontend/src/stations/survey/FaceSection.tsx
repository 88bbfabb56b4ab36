import { useEffect, useRef } from "react";
import type { Face, JobDoc, MountDoc, PanelDoc } from "@/shared/api/client";
import { freeId } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Button, Head, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";

const SIZES = [80, 92, 120, 140, 180, 200];
const STEP_MM = 125;
const WORDS: Record<Face, string> = {
  front: "The front",
  top: "The top",
  rear: "The rear",
  bottom: "The bottom",
  window: "The window side",
};

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
        {number} {WORDS[face]}
      </Head>
      <PanelFields face={face} />
      {mounts.map((m) => (
        <MountFields key={m.id} mount={m} on={chosen === m.id} onMount={onMount} />
      ))}
      <div>
        <Button small onClick={add}>
          Add a mount at {WORDS[face].toLowerCase()}
        </Button>
      </div>
    </section>
  );
}

/** A new mount beside the last one of its face, in the middle of the width. */
function addMount(d: JobDoc, face: Face, id: string) {
  const { depth, height, width } = d.case.inner_mm;
  const last = (d.case.mounts ?? []).filter((m) => m.face === face).at(-1)?.centre_mm;
  const floor = d.case.shroud?.height_mm ?? 0;
  const along = (from: number, step: number, low: number, high: number) => Math.round(Math.min(Math.max(from + step, low), high));
  const centre = {
    front: { x: 0, y: width / 2, z: last ? along(last.z, -STEP_MM, floor + 60, height - 65) : height - 65 },
    rear: { x: depth, y: width / 2, z: last ? along(last.z, -STEP_MM, 60, height - 65) : height - 85 },
    top: { x: last ? along(last.x, -STEP_MM, 60, depth - 65) : depth - 80, y: width / 2, z: height },
    bottom: { x: last ? along(last.x, STEP_MM, 60, depth - 65) : 70, y: width / 2, z: 0 },
    window: { x: last ? along(last.x, STEP_MM, 60, depth - 65) : depth / 2, y: width, z: height / 2 },
  }[face];
  d.case.mounts = [...(d.case.mounts ?? []), { id, face, centre_mm: centre, sizes_mm: [120] }];
}

function PanelFields({ face }: { face: Face }) {
  const { document, edit } = useJob();
  const panel = document.case.panels?.find((p) => p.face === face);
  const set = (label: string, step: (p: PanelDoc) => void) =>
    edit(`${face} panel: ${label}`, (d) => {
      const own = d.case.panels?.find((p) => p.face === face);
      if (own) step(own);
    });
  const kind = (value: string) =>
    edit(`${face} panel`, (d) => {
      const rest = (d.case.panels ?? []).filter((p) => p.face !== face);
      const before = d.case.panels?.find((p) => p.face === face);
      const more =
        value === "mesh"
          ? { open_area_pct: before?.open_area_pct ?? 45 }
          : value === "slots"
            ? { gap_area_cm2: before?.gap_area_cm2 ?? 90, turns_90: before?.turns_90 ?? 2 }
            : {};
      d.case.panels = value
        ? [...rest, { ...(before ?? { filter: "none" as const }), face, kind: value as PanelDoc["kind"], ...more }]
        : rest;
    });
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Select
        label="Panel"
        value={panel?.kind ?? ""}
        empty={face === "window" ? "closed sheet" : "none: bare sheet with its holes"}
        choices={[
          { value: "mesh", words: "mesh" },
          { value: "slots", words: "closed, air through slots at its edge" },
          { value: "solid", words: "closed" },
          { value: "glass", words: "glass" },
        ]}
        onChange={kind}
      />
      {panel?.kind === "mesh" && (
        <NumberField
          label="Free share of the mesh"
          kind="share"
          low={1}
          high={100}
          value={panel.open_area_pct}
          onCommit={(v) =>
            set("free share", (p) => {
              p.open_area_pct = v;
            })
          }
        />
      )}
      {panel?.kind === "slots" && (
        <>
          <NumberField
            label="Slots in all"
            kind="area"
            low={1}
            high={3000}
            value={panel.gap_area_cm2}
            onCommit={(v) =>
              set("slots", (p) => {
                p.gap_area_cm2 = v;
              })
            }
          />
          <NumberField
            label="Right-angle turns"
            low={0}
            high={6}
            digits={0}
            value={panel.turns_90}
            onCommit={(v) =>
              set("turns", (p) => {
                p.turns_90 = v;
              })
            }
          />
        </>
      )}
      {panel && (
        <Select
          label="Filter"
          value={panel.filter ?? "none"}
          choices={[
            { value: "none", words: "none" },
            { value: "coarse", words: "coarse" },
            { value: "fine", words: "fine" },
          ]}
          onChange={(v) =>
            set("filter", (p) => {
              p.filter = v as PanelDoc["filter"];
            })
          }
        />
      )}
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
  const set = (label: string, step: (m: MountDoc) => void) =>
    edit(`${name}: ${label}`, (d) => {
      const own = d.case.mounts?.find((m) => m.id === mount.id);
      if (own) step(own);
    });
  const alongX = mount.face === "top" || mount.face === "bottom" || mount.face === "window";
  const place = (axis: "x" | "z", words: string, high: number) => (
    <NumberField
      label={words}
      kind="length"
      low={0}
      high={high}
      value={mount.centre_mm[axis]}
      onFocus={() => onMount(mount.id)}
      onCommit={(v) =>
        v !== null &&
        set(words, (m) => {
          m.centre_mm[axis] = v;
        })
      }
    />
  );
  const sizes = (value: number, wanted: boolean) =>
    set("fan sizes", (m) => {
      const next = wanted ? [...m.sizes_mm, value].sort((a, b) => a - b) : m.sizes_mm.filter((s) => s !== value);
      if (next.length) m.sizes_mm = next;
    });
  return (
    <div
      ref={box}
      className={`flex flex-col gap-2 rounded-box border p-3 ${on ? "border-base-content bg-paper" : "hairline"}`}
      data-survey-mount={mount.id}
    >
      <div className="flex flex-wrap items-end gap-3">
        <strong className="wide min-w-8 pb-1 text-[16px]">{name}</strong>
        {alongX && place("x", "Centre, from the front", inner.depth)}
        {!(mount.face === "top" || mount.face === "bottom") && place("z", "Centre, over the floor", inner.height)}
        <NumberField
          label="Depth free inside"
          kind="length"
          low={0}
          high={400}
          value={mount.depth_mm ?? 60}
          onFocus={() => onMount(mount.id)}
          onCommit={(v) =>
            v !== null &&
            set("depth", (m) => {
              m.depth_mm = v;
            })
          }
        />
        <NumberField
          label="Free share of its grille"
          kind="share"
          low={5}
          high={100}
          value={mount.grille_open_pct ?? 100}
          onFocus={() => onMount(mount.id)}
          onCommit={(v) =>
            v !== null &&
            set("grille", (m) => {
              m.grille_open_pct = v;
            })
          }
        />
      </div>
      <div className="flex flex-wrap items-center gap-3 text-[13px]">
        <span className="text-faint">takes</span>
        {SIZES.map((s) => (
          <label key={s} className="flex items-center gap-1">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={mount.sizes_mm.includes(s)}
              onChange={(e) => sizes(s, e.target.checked)}
            />
            {s}
          </label>
        ))}
        {mount.face === "bottom" && document.case.shroud && (
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={mount.on_shroud ?? false}
              onChange={(e) =>
                set("on the shroud", (m) => {
                  m.on_shroud = e.target.checked;
                  m.centre_mm.z = e.target.checked ? (document.case.shroud?.height_mm ?? 0) : 0;
                })
              }
            />
            on the shroud's roof
          </label>
        )}
        <span className="ml-auto">
          <Button
            small
            onClick={() =>
              edit(`remove mount ${name}`, (d) => {
                d.case.mounts = (d.case.mounts ?? []).filter((m) => m.id !== mount.id);
                for (const layout of d.layouts ?? []) {
                  layout.fans = (layout.fans ?? []).filter((f) => f.mount !== mount.id);
                  if (layout.radiator?.mounts.includes(mount.id)) layout.radiator = null;
                }
                for (const rail of d.case.rails ?? []) rail.mounts = (rail.mounts ?? []).filter((m) => m !== mount.id);
              })
            }
          >
            remove {name}
          </Button>
        </span>
      </div>
    </div>
  );
}
