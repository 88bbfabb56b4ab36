import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { useJob } from "@/shared/job/store";
import { Head, Select, TextField } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { FaceSection } from "./FaceSection";

const FACES = ["front", "top", "rear", "bottom", "window"] as const;

/** A walk round the case with a ruler: the drawing grows beside the numbers, what is asked for is lit. */
export function SurveyStation() {
  const { document, edit, id } = useJob();
  const [lit, setLit] = useState<string | null>(null);
  const [mount, setMount] = useState<string | null>(null);
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
        <section className="flex flex-col gap-3" onFocus={() => setLit(null)}>
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
          {document.case.mounts?.length ?? 0} mounts,{" "}
          {((document.case.inner_mm.depth * document.case.inner_mm.height * document.case.inner_mm.width) / 1e6).toFixed(0)}{" "}
          litres inside. Click a mount to find its figures.
        </p>
      </div>
    </div>
  );
}

function Size({
  label,
  name,
  light,
}: {
  label: string;
  name: "depth" | "height" | "width";
  light: (face: string | null) => void;
}) {
  const { document, edit } = useJob();
  return (
    <NumberField
      label={label}
      kind="length"
      low={50}
      high={1500}
      value={document.case.inner_mm[name]}
      onFocus={() => light(name === "width" ? "window" : name)}
      onCommit={(v) =>
        v !== null &&
        edit(`inside ${name}`, (d) => {
          d.case.inner_mm[name] = v;
        })
      }
    />
  );
}

function BoardSection({ light }: { light: (face: string | null) => void }) {
  const { document, edit } = useJob();
  const c = document.case;
  return (
    <section className="flex flex-col gap-3">
      <Head>2 Board and card</Head>
      <div className="flex flex-wrap gap-4">
        <NumberField
          label="Board, from the rear wall"
          kind="length"
          low={100}
          high={500}
          value={c.board_depth_mm ?? 244}
          onFocus={() => light("rear")}
          onCommit={(v) =>
            edit("board depth", (d) => {
              d.case.board_depth_mm = v ?? 244;
            })
          }
        />
        <NumberField
          label="Middle of the card, over the floor"
          kind="length"
          low={10}
          high={c.inner_mm.height}
          optional="auto"
          value={c.card_height_mm}
          onFocus={() => light("height")}
          onCommit={(v) =>
            edit("card height", (d) => {
              d.case.card_height_mm = v;
            })
          }
        />
        <Select
          label="The card's chamber"
          value={c.card_chamber ?? "shared"}
          choices={[
            { value: "shared", words: "shared with the board" },
            { value: "separate", words: "behind its own wall" },
          ]}
          onChange={(v) =>
            edit("card chamber", (d) => {
              d.case.card_chamber = v as "shared" | "separate";
            })
          }
        />
        <NumberField
          label="Longest card"
          kind="length"
          low={50}
          high={1000}
          optional="not known"
          value={c.limits_mm?.card_length}
          onCommit={(v) =>
            edit("longest card", (d) => {
              d.case.limits_mm = { ...(d.case.limits_mm ?? {}), card_length: v };
            })
          }
        />
        <NumberField
          label="Tallest cooler"
          kind="length"
          low={20}
          high={400}
          optional="not known"
          value={c.limits_mm?.cooler_height}
          onCommit={(v) =>
            edit("tallest cooler", (d) => {
              d.case.limits_mm = { ...(d.case.limits_mm ?? {}), cooler_height: v };
            })
          }
        />
      </div>
    </section>
  );
}

function ShroudSection() {
  const { document, edit } = useJob();
  const shroud = document.case.shroud;
  const field = (
    label: string,
    name: "height_mm" | "top_open_cm2" | "front_cut_cm2" | "vent_cm2",
    kind: "length" | "area",
    fallback: number,
  ) => (
    <NumberField
      label={label}
      kind={kind}
      low={kind === "length" ? 20 : 0}
      high={kind === "length" ? 300 : 2000}
      value={shroud?.[name] ?? fallback}
      onCommit={(v) =>
        edit(`shroud: ${label}`, (d) => {
          if (d.case.shroud && v !== null) d.case.shroud[name] = v;
        })
      }
    />
  );
  return (
    <section className="flex flex-col gap-3">
      <Head>3 Shroud over the supply</Head>
      <label className="flex items-center gap-2 text-[13.5px]">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={Boolean(shroud)}
          onChange={(e) =>
            edit(e.target.checked ? "add a shroud" : "no shroud", (d) => {
              d.case.shroud = e.target.checked ? { height_mm: 95, top_open_cm2: 40, front_cut_cm2: 30, vent_cm2: 60 } : null;
            })
          }
        />
        A shroud covers the supply
      </label>
      {shroud && (
        <div className="flex flex-wrap gap-4">
          {field("Height of its roof", "height_mm", "length", 95)}
          {field("Holes in its roof", "top_open_cm2", "area", 40)}
          {field("Cut at its front", "front_cut_cm2", "area", 30)}
          {field("Vents to the room", "vent_cm2", "area", 60)}
        </div>
      )}
    </section>
  );
}

function RoomSection() {
  const { document, edit } = useJob();
  const room = document.room ?? {};
  const set =
    (
      name: "temperature_c" | "worst_temperature_c" | "background_dba" | "sound_limit_dba" | "listener_distance_m",
      label: string,
    ) =>
    (v: number | null) =>
      edit(label, (d) => {
        d.room = { ...(d.room ?? {}), [name]: v ?? undefined };
      });
  return (
    <section className="flex flex-col gap-3">
      <Head>9 The room and the ear</Head>
      <div className="flex flex-wrap gap-4">
        <NumberField
          label="Usual room temperature"
          kind="temperature"
          low={-10}
          high={50}
          value={room.temperature_c ?? 22}
          onCommit={set("temperature_c", "room temperature")}
        />
        <NumberField
          label="Warmest it gets"
          kind="temperature"
          low={-10}
          high={55}
          optional="not known"
          value={room.worst_temperature_c}
          onCommit={set("worst_temperature_c", "warmest room")}
        />
        <NumberField
          label="Sound of the room, machine off"
          kind="level"
          low={0}
          high={80}
          value={room.background_dba ?? 28}
          onCommit={set("background_dba", "background sound")}
        />
        <NumberField
          label="Sound limit at the ear"
          kind="level"
          low={10}
          high={90}
          optional="none"
          value={room.sound_limit_dba}
          onCommit={set("sound_limit_dba", "sound limit")}
        />
        <NumberField
          label="Ear to case, metres"
          low={0.2}
          high={10}
          value={room.listener_distance_m ?? 0.7}
          onCommit={set("listener_distance_m", "listener distance")}
        />
        <Select
          label="The listener sits"
          value={room.listener_side ?? "front"}
          choices={[
            { value: "front", words: "in front" },
            { value: "window", words: "at the window side" },
            { value: "rear", words: "behind" },
            { value: "above", words: "above" },
          ]}
          onChange={(v) =>
            edit("listener's place", (d) => {
              d.room = { ...(d.room ?? {}), listener_side: v as "front" };
            })
          }
        />
      </div>
    </section>
  );
}
