import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { DocNumber, DocSelect } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Head, TextField } from "@/shared/ui/bits";
import { FaceSection } from "./FaceSection";

const FACES = ["front", "top", "rear", "bottom", "window"] as const;
const CHAMBERS = [
  { value: "shared", words: "shared with the board" },
  { value: "separate", words: "behind its own wall" },
];
const SEATS = [
  { value: "front", words: "in front" },
  { value: "window", words: "at the window side" },
  { value: "rear", words: "behind" },
  { value: "above", words: "above" },
];

type Light = (face: string | null) => void;

/** A walk round the case with a ruler: the drawing grows beside the numbers, what is asked for is lit. */
export function SurveyStation() {
  const { document, edit, id } = useJob();
  const [lit, setLit] = useState<string | null>(null);
  const [mount, setMount] = useState<string | null>(null);
  const { depth, height, width } = document.case.inner_mm;
  const count = document.case.mounts?.length ?? 0;
  return (
    <div className="grid h-full grid-cols-[minmax(420px,1fr)_minmax(380px,1.05fr)] max-lg:h-auto max-lg:grid-cols-1">
      <div className="flex flex-col gap-6 overflow-y-auto border-r border-base-content p-5">
        <header>
          <h1 className="text-[19px]">Walk round the case</h1>
          <p className="text-[13.5px] text-faint">
            Measure inside, in the order below; the part being asked for is lit in the drawing. A figure you do not know yet can
            stay as it is.
          </p>
        </header>
        <section className="flex flex-col gap-3">
          <Head>1 The case and its inside</Head>
          <TextField
            label="Name of the case"
            value={document.case.name ?? ""}
            onChange={(v) =>
              edit("name the case", (d) => {
                d.case.name = v;
              })
            }
          />
          <div className="flex flex-wrap gap-4">
            <Size label="Depth, front to rear" name="depth" light={setLit} />
            <Size label="Height, floor to top" name="height" light={setLit} />
            <Size label="Width, tray to window" name="width" light={setLit} />
          </div>
        </section>
        <BoardSection light={setLit} />
        <ShroudSection />
        {FACES.map((face, i) => (
          <FaceSection key={face} face={face} number={i + 4} light={setLit} onMount={setMount} chosen={mount} />
        ))}
        <RoomSection />
        <Link to="/jobs/$jobId/parts" params={{ jobId: String(id) }} className="btn btn-primary btn-sm self-start">
          Next: lay the parts on the table
        </Link>
      </div>
      <div className="flex flex-col p-4 max-lg:order-first max-lg:h-[440px]">
        <div className="min-h-0 flex-1">
          <Cutaway
            doc={document}
            chosen={mount}
            onChoose={setMount}
            litFace={lit}
            title="The case as surveyed, seen through the window side"
          />
        </div>
        <p className="text-center text-[13px] text-faint">
          {count} {count === 1 ? "mount" : "mounts"}, {((depth * height * width) / 1e6).toFixed(0)} litres inside. Click a mount
          to find its figures.
        </p>
      </div>
    </div>
  );
}

function Size({ label, name, light }: { label: string; name: "depth" | "height" | "width"; light: Light }) {
  const face = name === "width" ? "window" : name;
  return (
    <DocNumber label={label} path={["case", "inner_mm", name]} kind="length" low={50} high={1500} onFocus={() => light(face)} />
  );
}

function BoardSection({ light }: { light: Light }) {
  const { document } = useJob();
  const height = document.case.inner_mm.height;
  const limit = { kind: "length" as const, optional: "not known" };
  return (
    <section className="flex flex-col gap-3">
      <Head>2 Board and card</Head>
      <div className="flex flex-wrap gap-4">
        <DocNumber
          label="Board, from the rear wall"
          path={["case", "board_depth_mm"]}
          kind="length"
          low={100}
          high={500}
          fallback={244}
          onFocus={() => light("rear")}
        />
        <DocNumber
          label="Middle of the card, over the floor"
          path={["case", "card_height_mm"]}
          kind="length"
          low={10}
          high={height}
          optional="auto"
          onFocus={() => light("height")}
        />
        <DocSelect label="The card's chamber" path={["case", "card_chamber"]} fallback="shared" choices={CHAMBERS} />
        <DocNumber label="Longest card" path={["case", "limits_mm", "card_length"]} low={50} high={1000} {...limit} />
        <DocNumber label="Tallest cooler" path={["case", "limits_mm", "cooler_height"]} low={20} high={400} {...limit} />
      </div>
    </section>
  );
}

function ShroudSection() {
  const { document, edit } = useJob();
  const has = Boolean(document.case.shroud);
  return (
    <section className="flex flex-col gap-3">
      <Head>3 Shroud over the supply</Head>
      <label className="flex items-center gap-2 text-[13.5px]">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={has}
          onChange={(e) =>
            edit(e.target.checked ? "add a shroud" : "no shroud", (d) => {
              d.case.shroud = e.target.checked ? { height_mm: 95, top_open_cm2: 40, front_cut_cm2: 30, vent_cm2: 60 } : null;
            })
          }
        />
        A shroud covers the supply
      </label>
      {has && (
        <div className="flex flex-wrap gap-4">
          <DocNumber label="Height of its roof" path={["case", "shroud", "height_mm"]} kind="length" low={20} high={300} />
          <DocNumber
            label="Holes in its roof"
            path={["case", "shroud", "top_open_cm2"]}
            kind="area"
            low={0}
            high={2000}
            fallback={40}
          />
          <DocNumber
            label="Cut at its front"
            path={["case", "shroud", "front_cut_cm2"]}
            kind="area"
            low={0}
            high={2000}
            fallback={30}
          />
          <DocNumber
            label="Vents to the room"
            path={["case", "shroud", "vent_cm2"]}
            kind="area"
            low={0}
            high={2000}
            fallback={60}
          />
        </div>
      )}
    </section>
  );
}

function RoomSection() {
  const room = (name: string) => ["room", name];
  return (
    <section className="flex flex-col gap-3">
      <Head>9 The room and the ear</Head>
      <div className="flex flex-wrap gap-4">
        <DocNumber
          label="Usual room temperature"
          path={room("temperature_c")}
          kind="temperature"
          low={-10}
          high={50}
          fallback={22}
        />
        <DocNumber
          label="Warmest it gets"
          path={room("worst_temperature_c")}
          kind="temperature"
          low={-10}
          high={55}
          optional="not known"
        />
        <DocNumber
          label="Sound of the room, machine off"
          path={room("background_dba")}
          kind="level"
          low={0}
          high={80}
          fallback={28}
        />
        <DocNumber
          label="Sound limit at the ear"
          path={room("sound_limit_dba")}
          kind="level"
          low={10}
          high={90}
          optional="none"
        />
        <DocNumber label="Ear to case, metres" path={room("listener_distance_m")} low={0.2} high={10} fallback={0.7} />
        <DocSelect label="The listener sits" path={room("listener_side")} fallback="front" choices={SEATS} />
      </div>
    </section>
  );
}
