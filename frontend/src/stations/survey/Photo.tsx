import { useState } from "react";
import type { Face, JobDoc, MountDoc } from "@/shared/api/client";
import { usePhotoReading } from "@/shared/api/hooks";
import { Plan } from "@/shared/cutaway/geometry";
import { laid } from "@/shared/cutaway/photo";
import { freeId } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Button, Select } from "@/shared/ui/bits";
import { FileButton } from "@/shared/ui/FileButton";
import { NumberField } from "@/shared/ui/NumberField";
import { NO_PICTURE, small } from "@/shared/ui/picture";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { PHOTO_READINGS, USUAL, within } from "@/shared/words/words";

export type Tool = "none" | "mount" | "length";
type At = { x: number; z: number };
type Corner = "rear_floor" | "front_floor";

// Room for what a tool says: were it to push the drawing up, the next click would land beside its place.
const ROOM = "min-h-[120px]";
const MOST_SIDE_PX = 1400;
const CORNER_WORDS = { rear_floor: "lower rear", front_floor: "lower front" };
const READINGS = PHOTO_READINGS;

export function usePhoto(chosen: string | null, onMount: (id: string | null) => void) {
  const { document, edit } = useJob();
  const [tool, setTool] = useState<Tool>("none");
  const [share, setShare] = useState(0.6);
  const [ends, setEnds] = useState<At[]>([]);
  const place = (x: number, z: number) => {
    if (tool === "length") return setEnds(ends.length === 1 ? [...ends, { x, z }] : [{ x, z }]);
    const had = document.case.mounts?.find((m) => m.id === chosen);
    const face = had?.face ?? nearest(document.case, { x, z });
    const id =
      had?.id ??
      freeId(
        (document.case.mounts ?? []).map((m) => m.id),
        { front: "f", top: "t", rear: "r", bottom: "b", window: "s" }[face],
        true,
      );
    edit(had ? `${id.toUpperCase()}: placed on the photograph` : `add mount ${id.toUpperCase()}`, (d) => {
      const own = d.case.mounts?.find((m) => m.id === id);
      if (own) moveTo(own, { x, z });
      else d.case.mounts = [...(d.case.mounts ?? []), freshMount(d.case, id, face, { x, z })];
    });
    onMount(id);
  };
  const photo = document.case.photo;
  const at = photo ? laid(new Plan(document.case), photo) : null;
  return {
    tool,
    setTool,
    share,
    setShare,
    ends,
    setEnds,
    mmPerPx: at?.mmPerPx ?? null,
    onPlace: at && tool !== "none" ? place : undefined,
    pins: tool === "length" ? ends.map((p, i) => ({ x_mm: p.x, z_mm: p.z, n: i + 1, words: `end ${i + 1} of the length` })) : [],
  };
}

function nearest(case_: JobDoc["case"], { x, z }: At): Face {
  const { depth, height } = case_.inner_mm;
  const away = { front: x, rear: depth - x, top: height - z, bottom: z };
  return (Object.entries(away) as [Face, number][]).sort((a, b) => a[1] - b[1])[0]?.[0] ?? "front";
}

function moveTo(mount: MountDoc, { x, z }: At) {
  if (mount.face === "front" || mount.face === "rear" || mount.face === "window") mount.centre_mm.z = z;
  if (mount.face === "top" || mount.face === "bottom" || mount.face === "window") mount.centre_mm.x = x;
}

function freshMount(case_: JobDoc["case"], id: string, face: Face, { x, z }: At): MountDoc {
  const { depth, height, width } = case_.inner_mm;
  const y = (num(case_.card_side_mm) + width) / 2;
  const centre = {
    front: { x: 0, y, z },
    rear: { x: depth, y, z },
    top: { x, y, z: height },
    bottom: { x, y, z: 0 },
    window: { x, y: width, z },
  }[face];
  return { id, face, centre_mm: centre, sizes_mm: [USUAL.wall_fan_mm] } as MountDoc;
}

/** A photograph of the opened case behind the drawing: two corners set its scale, clicks place mounts and read lengths. */
export function PhotoBar({ photo: state, mount }: { photo: ReturnType<typeof usePhoto>; mount: string | null }) {
  const { document, edit } = useJob();
  const [fault, setFault] = useState("");
  const photo = document.case.photo;
  const corner: Corner | null = !photo ? null : !photo.rear_floor ? "rear_floor" : !photo.front_floor ? "front_floor" : null;
  const take = async (file: File) => {
    setFault("");
    try {
      const made = await small(file, MOST_SIDE_PX);
      edit("lay a photograph behind the drawing", (d) => {
        d.case.photo = made;
      });
    } catch {
      setFault(NO_PICTURE);
    }
  };
  if (!photo)
    return (
      <div className="flex flex-wrap items-center gap-3 text-small">
        <FileButton words="Lay a photograph behind the drawing" accept="image/*" onFile={take} />
        <span className="text-faint">The opened case from the window side, two metres away.</span>
        {fault && (
          <span role="alert" className="text-error">
            {fault}
          </span>
        )}
      </div>
    );
  const off = (
    <Button
      small
      onClick={() =>
        edit("remove the photograph", (d) => {
          d.case.photo = null;
        })
      }
    >
      Remove the photograph
    </Button>
  );
  if (corner) return <Corners photo={photo} corner={corner} off={off} />;
  return (
    <div className={`flex flex-col gap-1.5 text-small ${ROOM}`} data-photo-tool={state.tool}>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <label className="flex items-center gap-2">
          Photograph
          <input
            type="range"
            min={0}
            max={100}
            value={state.share * 100}
            className="range range-xs w-24"
            onChange={(e) => state.setShare(Number(e.target.value) / 100)}
          />
        </label>
        <Button small strong={state.tool === "mount"} onClick={() => state.setTool(state.tool === "mount" ? "none" : "mount")}>
          {mount ? `Place ${mount.toUpperCase()} by a click` : "Add mounts by clicks"}
        </Button>
        <Button
          small
          strong={state.tool === "length"}
          onClick={() => {
            state.setEnds([]);
            state.setTool(state.tool === "length" ? "none" : "length");
          }}
        >
          Read a length
        </Button>
        <Button
          small
          onClick={() =>
            edit("click the corners again", (d) => {
              if (d.case.photo) Object.assign(d.case.photo, { rear_floor: null, front_floor: null });
            })
          }
        >
          Corners again
        </Button>
        {off}
      </div>
      {state.tool === "length" && <Reading state={state} />}
      {state.tool === "mount" && (
        <p className="text-faint">
          Click where the fan's middle is; it goes to the {mount ? "mount's own face" : "nearest face"}.
        </p>
      )}
    </div>
  );
}

/** The photograph as it is, to click the two corners that set its scale. */
function Corners(props: { photo: NonNullable<JobDoc["case"]["photo"]>; corner: Corner; off: React.ReactNode }) {
  const { document, edit } = useJob();
  const { photo, corner } = props;
  return (
    <div className="flex flex-col gap-2 text-small" data-corner={corner}>
      <p className="text-body">
        Click the inside's <strong>{CORNER_WORDS[corner]} corner</strong> in the photograph.
      </p>
      <button
        type="button"
        className="relative cursor-crosshair self-start"
        aria-label={`Photograph: click the inside's ${CORNER_WORDS[corner]} corner`}
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const at = { u: (e.clientX - box.left) / box.width, v: (e.clientY - box.top) / box.height };
          edit(`${CORNER_WORDS[corner]} corner`, (d) => {
            if (d.case.photo) d.case.photo[corner] = at;
          });
        }}
      >
        <img src={photo.picture} alt="The opened case" className="max-h-[46vh] max-w-full rounded border hairline" />
        {photo.rear_floor && (
          <span
            className="absolute h-3 w-3 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-accent bg-paper"
            style={{ left: `${photo.rear_floor.u * 100}%`, top: `${photo.rear_floor.v * 100}%` }}
          />
        )}
      </button>
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label="The two corners are apart"
          kind="length"
          {...within("case.photo.apart_mm")}
          optional="as deep as inside"
          value={photo.apart_mm ?? null}
          onCommit={(v) =>
            edit("distance of the corners", (d) => {
              if (d.case.photo) d.case.photo.apart_mm = v;
            })
          }
        />
        {props.off}
        <span className="pb-1 text-faint">Nothing typed: {document.case.inner_mm.depth} mm, the depth inside.</span>
      </div>
    </div>
  );
}

function Reading({ state }: { state: ReturnType<typeof usePhoto> }) {
  const { document, edit } = useJob();
  const units = useUnits();
  const [into, setInto] = useState("limits_mm.card_length");
  const [a, b] = state.ends;
  const asked =
    a && b && state.mmPerPx
      ? {
          length_mm: Math.hypot(a.x - b.x, a.z - b.z),
          apart_mm: document.case.photo?.apart_mm ?? document.case.inner_mm.depth,
          mm_per_px: state.mmPerPx,
        }
      : null;
  const { data: read } = usePhotoReading(asked && asked.length_mm > 0 ? asked : null);
  if (!asked || !read)
    return <p className="text-faint">Click the {a ? "other end" : "two ends"} of the length in the drawing.</p>;
  const { length_mm: length, tolerance_mm: tolerance } = read;
  const take = () =>
    edit(`${READINGS.find((r) => r.value === into)?.words} from the photograph`, (d) => {
      const keys = into.split(".");
      const last = keys.pop() ?? "";
      let holder = d.case as unknown as Record<string, unknown>;
      for (const key of keys) {
        holder[key] ??= {};
        holder = holder[key] as Record<string, unknown>;
      }
      holder[last] = length;
      const dimensions = { ...(d.case.dimensions ?? {}) };
      dimensions[into] = {
        source: "measured",
        measured_mm: length,
        tolerance_mm: tolerance,
        note: "from a photograph",
      };
      d.case.dimensions = dimensions;
    });
  return (
    <div className="flex flex-wrap items-end gap-3" data-reading={length}>
      <strong className="pb-1 text-body">
        {units.text("length", length)} ± {units.withUnit("length", tolerance)}
      </strong>
      <Select label="It is" value={into} choices={READINGS} onChange={setInto} />
      <Button small strong onClick={take}>
        Take it
      </Button>
      <span className="max-w-80 pb-0.5 text-fine text-faint">
        What lies nearer to the camera than the two corners looks larger, by some 4 % a hand's breadth; measure what is tight by
        hand.
      </span>
    </div>
  );
}
