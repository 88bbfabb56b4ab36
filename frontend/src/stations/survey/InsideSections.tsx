import { useUsualZones } from "@/shared/api/hooks";
import { CaseLength } from "@/shared/job/CaseLength";
import { layoutOf } from "@/shared/job/edits";
import { DocNumber, DocSelect, DocTicks, type FieldSpec } from "@/shared/job/fields";
import { Rows } from "@/shared/job/Rows";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { num } from "@/shared/words/lists";
import { CAUTIONS, CHOICES, FACES } from "@/shared/words/words";

type Light = (face: string | null) => void;

const CHAMBERS = CHOICES["case.card_chamber"];
const BACKPLATES = CHOICES["case.backplate"];
export const FACE_CHOICES = FACES;
const length = (name: string, words: string): FieldSpec => ({ name, words, kind: "length" });
const point = (name: string): FieldSpec[] => [
  length(`${name}.x`, "From the front"),
  length(`${name}.y`, "From the tray"),
  length(`${name}.z`, "Over the floor"),
];

/** Board tray, card and what they leave room for. */
export function BoardSection({ light }: { light: Light }) {
  const { document } = useJob();
  const { depth, height } = document.case.inner_mm;
  const limit = (name: string, label: string) => (
    <CaseLength label={label} path={["case", "limits_mm", name]} name={`limits_mm.${name}`} optional="not known" />
  );
  return (
    <section className="flex flex-col gap-3">
      <Head>2 Board and card</Head>
      <div className="flex flex-wrap gap-4">
        <CaseLength
          label="Board, from the rear wall"
          path={["case", "board_depth_mm"]}
          name="board_depth_mm"
          onFocus={() => light("rear")}
        />
        <CaseLength
          label="Middle of the card, over the floor"
          path={["case", "card_height_mm"]}
          name="card_height_mm"
          high={height}
          optional="auto"
          onFocus={() => light("height")}
        />
        <DocSelect label="The card's chamber" path={["case", "card_chamber"]} choices={CHAMBERS} />
        {document.case.card_chamber === "separate" && (
          <CaseLength
            label="Its width behind the tray"
            path={["case", "card_side_mm"]}
            name="card_side_mm"
            high={0.9 * document.case.inner_mm.width}
            optional="under the board's"
          />
        )}
        {limit("card_length", "Longest card")}
        {limit("card_width", "Card to the side panel")}
        <DocNumber label="Most slots of a card" path={["case", "limits_mm", "card_slots"]} digits={1} optional="not known" />
        {limit("cooler_height", "Tallest cooler")}
        {limit("memory_to_top", "Memory to the top mounts")}
        <DocSelect label="Rear of the processor's socket" path={["case", "backplate"]} choices={BACKPLATES} />
      </div>
      <p className="text-small text-faint">
        Holes of the tray for leads: with two of them the build sheet says which lead goes behind the board, and whether it is
        long enough.
      </p>
      <Rows
        path={["case", "routing_holes"]}
        one="a hole for leads"
        stem="h"
        fresh={() => ({ centre_mm: { x: Math.round(depth / 2), y: 0, z: Math.round(height / 2) } })}
        fields={point("centre_mm")}
      />
    </section>
  );
}

/** The supply, and a shroud over it. */
export function SupplySection() {
  const { document, edit } = useJob();
  const inner = document.case.inner_mm;
  const shroud = document.case.shroud;
  const supply = document.case.supply;
  const area = { kind: "area" as const };
  const tick = (words: string, on: boolean, change: (on: boolean) => void) => (
    <label className="flex items-center gap-2 text-small">
      <input type="checkbox" className="checkbox checkbox-sm" checked={on} onChange={(e) => change(e.target.checked)} />
      {words}
    </label>
  );
  return (
    <section className="flex flex-col gap-3">
      <Head>3 Supply and shroud</Head>
      {tick("A shroud covers the supply", Boolean(shroud), (on) =>
        edit(on ? "add a shroud" : "no shroud", (d) => {
          d.case.shroud = on ? { height_mm: 95, top_open_cm2: 40, front_cut_cm2: 30, vent_cm2: 60 } : null;
        }),
      )}
      {shroud && (
        <div className="flex flex-wrap gap-4">
          <CaseLength label="Height of its roof" path={["case", "shroud", "height_mm"]} name="shroud.height_mm" />
          <DocNumber label="Holes in its roof" path={["case", "shroud", "top_open_cm2"]} {...area} />
          <DocNumber label="Cut at its front" path={["case", "shroud", "front_cut_cm2"]} {...area} />
          <DocNumber label="Vents to the room" path={["case", "shroud", "vent_cm2"]} {...area} />
        </div>
      )}
      {tick("Say where the supply stands", Boolean(supply), (on) =>
        edit(on ? "place the supply" : "supply not placed", (d) => {
          d.case.supply = on
            ? {
                centre_mm: { x: inner.depth - 80, y: inner.width / 2, z: 43 },
                size_mm: { x: 160, y: 150, z: 86 },
                loss_w: 40,
                own_duct: true,
              }
            : null;
        }),
      )}
      {supply && (
        <div className="flex flex-wrap items-end gap-4">
          {[...point("centre_mm"), length("size_mm.x", "Its length"), length("size_mm.z", "Its height")].map((f) => (
            <DocNumber key={f.name} label={f.words} path={["case", "supply", ...f.name.split(".")]} kind="length" />
          ))}
          <DocNumber label="Heat it gives off" path={["case", "supply", "loss_w"]} kind="power" />
          <DocSelectDuct />
        </div>
      )}
      <div className="flex flex-wrap gap-4">
        <CaseLength
          label="Longest supply"
          path={["case", "limits_mm", "supply_length"]}
          name="limits_mm.supply_length"
          optional="not known"
        />
      </div>
      <Caution>{CAUTIONS.supply}</Caution>
    </section>
  );
}

function DocSelectDuct() {
  const { document, edit } = useJob();
  return (
    <label className="flex items-center gap-1.5 py-1 text-small">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={document.case.supply?.own_duct ?? true}
        onChange={(e) =>
          edit("duct of the supply", (d) => {
            if (d.case.supply) d.case.supply.own_duct = e.target.checked;
          })
        }
      />
      breathes through a duct of its own
    </label>
  );
}

const BLOCKS = CHOICES["block.kind"];

/** What stands in the way of air, and openings that are no mounts. */
export function WaysSection({ light }: { light: Light }) {
  const { document } = useJob();
  const { depth, height, width } = document.case.inner_mm;
  return (
    <section className="flex flex-col gap-3">
      <Head remark="what stands in the way of air, and open places without a mount">9 Obstacles and vents</Head>
      <Rows
        path={["case", "blocks"]}
        one="an obstacle"
        stem="o"
        fresh={() => ({
          kind: "cage",
          from_mm: { x: 30, y: 20, z: 20 },
          to_mm: { x: 55, y: width - 20, z: Math.round(height / 3) },
          free_pct: 40,
        })}
        fields={[
          { name: "kind", words: "Kind", choices: BLOCKS },
          length("from_mm.x", "From the front"),
          length("to_mm.x", "to"),
          length("from_mm.z", "From the floor"),
          length("to_mm.z", "to"),
          { name: "free_pct", words: "Air passes", kind: "share" },
        ]}
      />
      <Rows
        path={["case", "vents"]}
        one="a vent"
        stem="v"
        onFocus={() => light(null)}
        fresh={() => ({ face: "rear", centre_mm: { x: depth, y: width / 2, z: Math.round(height * 0.6) }, area_cm2: 60 })}
        fields={[
          { name: "face", words: "In the", choices: FACE_CHOICES },
          length("centre_mm.x", "From the front"),
          length("centre_mm.z", "Over the floor"),
          { name: "area_cm2", words: "Open area", kind: "area" },
        ]}
      />
      <div className="flex flex-wrap gap-4">
        <DocNumber label="Slot covers, open" path={["case", "slot_cover_open_cm2"]} kind="area" />
      </div>
    </section>
  );
}

const SECTIONS = [120, 140, 240, 280, 360, 420, 480].map((v) => ({ value: v, words: String(v) }));

/** Where radiators can go. */
export function RailSection() {
  return (
    <section className="flex flex-col gap-3">
      <Head remark="where a radiator goes, and how long it may be">10 Rails for radiators</Head>
      <Rows
        path={["case", "rails"]}
        one="a rail"
        stem="rail"
        fresh={() => ({ face: "top", mounts: [], radiators_mm: [240], depth_mm: 60 })}
        fields={[
          { name: "face", words: "At the", choices: FACE_CHOICES },
          { name: "mounts", words: "over mounts", as: "mounts" },
          { name: "radiators_mm", words: "takes", as: "ticks", values: SECTIONS },
          length("depth_mm", "Depth"),
          { ...length("length_mm", "Length, tanks and all"), optional: "not known" },
        ]}
      />
    </section>
  );
}

/** Slots, drives and families of parts that shut each other out. */
export function FamilySection() {
  const { document } = useJob();
  const drives = (document.case.drives ?? []).map((d) => ({ value: d.id, words: d.name || d.id }));
  const slots = Array.from({ length: num(document.case.slots) }, (_, i) => ({ value: i + 1, words: String(i + 1) }));
  const some = (name: string, words: string, kind?: "length"): FieldSpec => ({
    name,
    words,
    kind,
    optional: "any",
  });
  return (
    <section className="flex flex-col gap-3">
      <Head remark="what is lost, and what shuts what out">11 Slots, drives, and either-or</Head>
      <div className="flex flex-wrap items-end gap-4">
        <DocNumber label="Expansion slots" path={["case", "slots"]} digits={0} optional="not known" />
        {slots.length > 0 && (
          <DocTicks label="In use by other cards, from below" path={["case", "slots_in_use"]} choices={slots} />
        )}
      </div>
      <Rows
        path={["case", "drives"]}
        one="a drive place"
        stem="d"
        onRemove={(d, id) => {
          for (const m of d.case.mounts ?? []) m.takes_drives = (m.takes_drives ?? []).filter((x) => x !== id);
          for (const x of d.case.exclusions ?? []) x.rules_out.drives = (x.rules_out.drives ?? []).filter((y) => y !== id);
        }}
        fresh={() => ({ name: "drive place", in_use: false })}
        fields={[
          { name: "name", words: "Name", as: "text" },
          { name: "in_use", words: "in use", as: "tick" },
        ]}
      />
      <p className="text-small text-faint">
        Either-or: in many cases one family of parts shuts another out. Say it once; every layout is held against it.
      </p>
      <Rows
        path={["case", "exclusions"]}
        one="an either-or"
        stem="x"
        fresh={() => ({
          when: { card_longer_than_mm: 200 },
          rules_out: { radiators_on: [] },
          why: "they would stand in the same place",
        })}
        fields={[
          some("when.card_longer_than_mm", "A card longer than", "length"),
          some("when.supply_longer_than_mm", "a supply longer than", "length"),
          some("when.cooler_higher_than_mm", "a cooler higher than", "length"),
          { name: "when.radiator_on", words: "a radiator on", as: "mounts" },
          { name: "rules_out.radiators_on", words: "rules out a radiator on", as: "mounts" },
          { name: "rules_out.fans_on", words: "rules out a fan on", as: "mounts" },
          some("rules_out.card_longer_than_mm", "rules out a card longer than", "length"),
          some("rules_out.supply_longer_than_mm", "rules out a supply longer than", "length"),
          ...(drives.length
            ? [{ name: "rules_out.drives", words: "rules out drives", as: "ticks" as const, values: drives }]
            : []),
          { name: "why", words: "because", as: "wide" },
        ]}
      />
      <p className="text-small text-faint">
        What must go in first in this case; fit puts it together with what is usual: power supply, board, memory, cooler, card,
        fan at R1, radiator at T1, T2.
      </p>
      <Rows
        path={["case", "assembly"]}
        one="a first-this-then-that"
        stem="a"
        fresh={() => ({ first: "power supply", second: "board", why: "it goes in from inside" })}
        fields={[
          { name: "first", words: "First", as: "text" },
          { name: "second", words: "then", as: "text" },
          { name: "why", words: "since", as: "wide" },
        ]}
      />
    </section>
  );
}

/** Places with a name: for probes and criteria. */
export function PointSection() {
  const { document } = useJob();
  const { depth, height, width } = document.case.inner_mm;
  return (
    <section className="flex flex-col gap-3">
      <Head remark="for probes, criteria and air">12 Named points and zones</Head>
      <Rows
        path={["points"]}
        one="a point"
        stem="p"
        fresh={() => ({
          name: "card intake",
          at_mm: { x: Math.round(depth / 2), y: Math.round(width / 2), z: Math.round(height / 2) },
        })}
        fields={[
          { name: "name", words: "Name", as: "text" },
          ...point("at_mm"),
          { name: "sensor", words: "Sensor no.", digits: 0, optional: "none" },
          { name: "critical", words: "critical", as: "tick" },
        ]}
      />
      <p className="text-small text-faint">
        A zone is a box with a name: its air is forecast, and what the probes in it read is put together.
      </p>
      <UsualZones />
      <Rows
        path={["zones"]}
        one="a zone"
        stem="z"
        fresh={() => ({
          name: "rear top",
          from_mm: { x: Math.round(0.75 * depth), y: 0, z: Math.round(0.75 * height) },
          to_mm: { x: depth, y: width, z: height },
        })}
        fields={[
          { name: "name", words: "Name", as: "text" },
          length("from_mm.x", "From the front"),
          length("to_mm.x", "to"),
          length("from_mm.z", "Over the floor"),
          length("to_mm.z", "to"),
          length("from_mm.y", "From the tray"),
          length("to_mm.y", "to"),
        ]}
      />
    </section>
  );
}

/** One press for the zones that builders ask about, as long as none of them is there. */
function UsualZones() {
  const { document, edit } = useJob();
  const { layoutId } = useWorkbench();
  const usual = useUsualZones();
  const layout = layoutOf(document, layoutId)?.id ?? document.layouts?.[0]?.id;
  if ((document.zones ?? []).length || !layout) return null;
  return (
    <div className="flex items-center gap-3">
      <Button
        small
        onClick={() =>
          usual.mutate(
            { document, layout },
            {
              onSuccess: (zones) =>
                edit("add the usual zones", (d) => {
                  d.zones = zones;
                }),
            },
          )
        }
      >
        Add the usual four
      </Button>
      <span className="text-small text-faint">processor intake, card intake, low front corner, rear top</span>
      {usual.error && <span role="alert">No answer: {usual.error.message}</span>}
    </div>
  );
}
