import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import type { Face, JobDoc, Schemas } from "@/shared/api/client";
import { useSketch } from "@/shared/api/hooks";
import { dropMounts } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Button, Head } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { count, num } from "@/shared/words/lists";
import { FACES as FACE_CHOICES, LIKES, USUAL, within } from "@/shared/words/words";

type Answers = Schemas["SketchIn"];
type Like = Answers["like"];

const OUTLINES: Record<Like, string> = {
  tower: "M6 2h22v36H6zM6 30h22M16 5h12v20H16z",
  compact: "M6 8h22v28H6zM15 11h13v12H15z",
  cube: "M2 8h32v28H2zM13 11h21v18H13z",
  sandwich: "M4 6h28v30H4zM18 6v30M20 10h10v12H20z",
  flat: "M2 16h34v14H2zM16 18h18v10H16z",
};

const FACES = FACE_CHOICES.map((f) => f.value);
const SIDES: { name: "depth_mm" | "height_mm" | "width_mm"; words: string; inner: "depth" | "height" | "width" }[] = [
  { name: "depth_mm", words: "Depth, front to rear", inner: "depth" },
  { name: "height_mm", words: "Height, floor to top", inner: "height" },
  { name: "width_mm", words: "Width, side to side", inner: "width" },
];

type Counts = Record<Face, { count: number; size: number }>;
const counted = (rows: Schemas["RowIn"][]) =>
  Object.fromEntries(
    FACES.map((f) => {
      const row = rows.find((r) => r.face === f);
      return [f, { count: num(row?.count), size: row?.size_mm ?? USUAL.wall_fan_mm }];
    }),
  ) as Counts;

/** Three questions, and a whole case is drawn; what is shown while they are answered is not in the job yet. */
export function Begin({ onPreview }: { onPreview: (drawn: JobDoc["case"] | null) => void }) {
  const { document, edit, id } = useJob();
  const had = count(document.case.mounts);
  const [open, setOpen] = useState(had === 0);
  const [like, setLike] = useState<Like | null>(null);
  const [sizes, setSizes] = useState({
    depth_mm: document.case.inner_mm.depth,
    height_mm: document.case.inner_mm.height,
    width_mm: document.case.inner_mm.width,
  });
  const [own, setOwn] = useState<Counts | null>(null); // once a person has counted, nothing else changes it
  // Before anything is chosen the rows of a tower stand there, and nothing is drawn.
  const answers: Answers = {
    like: like ?? "tower",
    ...sizes,
    rows: own && FACES.filter((f) => own[f].count > 0).map((f) => ({ face: f, count: own[f].count, size_mm: own[f].size })),
  };
  const drawn = useSketch(open ? answers : null);
  const rows = own ?? counted(drawn.data?.rows ?? []);
  const sketched = open && like && drawn.data && !drawn.error ? (drawn.data.case as JobDoc["case"]) : null;
  useEffect(() => onPreview(sketched), [sketched, onPreview]);

  if (!open)
    return (
      <div className="flex flex-wrap items-center gap-3 text-small text-faint">
        <Button small onClick={() => setOpen(true)}>
          Draw the case anew from three questions
        </Button>
        {had > 0 && !document.parts?.cpus?.length && (
          <>
            <span>It is drawn. What follows can be measured later, where it first matters.</span>
            <Link to="/jobs/$jobId/parts" params={{ jobId: String(id) }} className="btn btn-primary btn-sm">
              Go on to the parts
            </Link>
          </>
        )}
      </div>
    );
  const draw = () => {
    if (!sketched) return;
    edit("draw the case from three answers", (d) => {
      const { name, revision, kind, window_side } = d.case;
      dropMounts(
        d,
        (d.case.mounts ?? []).map((m) => m.id).filter((id) => !sketched.mounts?.some((m) => m.id === id)),
      );
      d.case = {
        ...sketched,
        ...(name ? { name } : {}),
        ...(revision ? { revision } : {}),
        ...(kind ? { kind } : {}),
        ...(window_side ? { window_side } : {}),
      };
    });
    setOpen(false);
  };
  const litres = (sizes.depth_mm * sizes.height_mm * sizes.width_mm) / 1e6;
  return (
    <section className="flex flex-col gap-4 rounded-box border-2 border-base-content bg-paper p-4" data-begin={like ?? "open"}>
      <Head remark="three questions, then it is drawn">Begin here</Head>
      <fieldset>
        <legend className="mb-1.5 text-small font-semibold">1 Which of these is it most like?</legend>
        <div className="grid grid-cols-5 gap-2 max-lg:grid-cols-3">
          {LIKES.map((l) => (
            <button
              key={l.value}
              type="button"
              aria-pressed={like === l.value}
              onClick={() => {
                setLike(l.value);
                setOwn(null);
              }}
              className={`flex cursor-pointer flex-col items-center gap-1 rounded-md border p-2 text-center text-small leading-tight ${
                like === l.value ? "border-base-content bg-base-200 font-semibold" : "hairline hover:border-base-content"
              }`}
            >
              <svg viewBox="0 0 40 42" className="h-12" aria-hidden="true">
                <path d={OUTLINES[l.value]} fill="none" stroke="currentColor" strokeWidth="1.6" />
              </svg>
              {l.words}
              <span className="text-fine font-normal text-faint">{l.about}</span>
            </button>
          ))}
        </div>
      </fieldset>
      <fieldset>
        <legend className="mb-1.5 text-small font-semibold">2 How large is it inside?</legend>
        <div className="flex flex-wrap items-end gap-4">
          {SIDES.map((s) => (
            <NumberField
              key={s.name}
              label={s.words}
              kind="length"
              value={sizes[s.name]}
              {...within("ask.case_mm")}
              onCommit={(v) => v !== null && setSizes({ ...sizes, [s.name]: v })}
            />
          ))}
          <span className="pb-1.5 text-small text-faint">{litres.toFixed(0)} litres</span>
        </div>
      </fieldset>
      <fieldset>
        <legend className="mb-1.5 text-small font-semibold">3 How many fans can each face take, and of which size?</legend>
        <div className="grid grid-cols-[auto_auto_1fr] items-center gap-x-3 gap-y-1 text-small">
          {FACES.map((f) => (
            <Places key={f} face={f} value={rows[f]} onChange={(v) => setOwn({ ...rows, [f]: v })} />
          ))}
        </div>
      </fieldset>
      {drawn.error && (
        <p role="alert" className="text-small text-error">
          {drawn.error.message}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-3">
        <button type="button" className="btn btn-primary btn-sm" disabled={!sketched} onClick={draw}>
          Draw the case
        </button>
        <Button small onClick={() => setOpen(false)}>
          {had ? "Leave it as it is" : "Measure it piece by piece instead"}
        </Button>
        <span className="text-fine text-faint">
          {!like
            ? "Choose what it is most like."
            : had
              ? "Mounts that are not drawn again go, with the fans on them; one step back undoes it."
              : "Everything can be moved and measured afterwards."}
        </span>
      </div>
    </section>
  );
}

function Places(props: {
  face: Face;
  value: { count: number; size: number };
  onChange: (v: { count: number; size: number }) => void;
}) {
  const { face, value, onChange } = props;
  return (
    <>
      <span>{face === "window" ? "window side" : face}</span>
      <select
        aria-label={`Places at the ${face}`}
        className="select select-sm w-20"
        value={value.count}
        onChange={(e) => onChange({ ...value, count: Number(e.target.value) })}
      >
        {[0, 1, 2, 3, 4, 5, 6].map((n) => (
          <option key={n} value={n}>
            {n || "none"}
          </option>
        ))}
      </select>
      <span className={value.count ? "" : "invisible"}>
        of{" "}
        <select
          aria-label={`Size at the ${face}, mm`}
          className="select select-sm w-24"
          value={value.size}
          onChange={(e) => onChange({ ...value, size: Number(e.target.value) })}
        >
          {USUAL.fan_sizes_mm.map((s) => (
            <option key={s} value={s}>
              {s}
            </option>
          ))}
        </select>{" "}
        mm
      </span>
    </>
  );
}
