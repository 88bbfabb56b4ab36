import { Link } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import type { JobDoc } from "@/shared/api/client";
import { useOutside } from "@/shared/api/hooks";
import { Cutaway } from "@/shared/cutaway/Cutaway";
import { CaseLength } from "@/shared/job/CaseLength";
import { DocSelect, DocText } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Head, TextField } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";
import { count as counted } from "@/shared/words/lists";
import { CHOICES, FACES } from "@/shared/words/words";
import { Begin } from "./Begin";
import { FaceSection } from "./FaceSection";
import { BoardSection, FamilySection, PointSection, RailSection, SupplySection, WaysSection } from "./InsideSections";
import { CaseFileSection, GrowthSection, PrioritySection, RoomSection } from "./PersonSections";
import { PhotoBar, usePhoto } from "./Photo";

const KINDS = CHOICES["case.kind"];

const SIDES = CHOICES["case.window_side"];

type Light = (face: string | null) => void;

/** A walk round the case with a ruler: the drawing grows beside the numbers, what is asked for is lit. */
export function SurveyStation() {
  const { document, edit, id } = useJob();
  const [lit, setLit] = useState<string | null>(null);
  const [mount, setMount] = useState<string | null>(null);
  const photo = usePhoto(mount, setMount);
  const [drawn, setDrawn] = useState<JobDoc["case"] | null>(null);
  const shown = useMemo(() => (drawn ? { ...document, case: drawn } : document), [drawn, document]);
  const outside = useOutside(document.case).data ?? [];
  const { depth, height, width } = shown.case.inner_mm;
  const count = counted(shown.case.mounts);
  return (
    <div className="grid h-full grid-cols-[minmax(420px,1fr)_minmax(380px,1.05fr)] max-lg:h-auto max-lg:grid-cols-1">
      <div className="flex flex-col gap-6 overflow-y-auto border-r border-base-content p-5">
        <header>
          <h1 className="text-title">Walk round the case</h1>
          <p className="text-small text-faint">
            Measure inside, in the order below; the part being asked for is lit in the drawing. A figure you do not know yet can
            stay as it is.
          </p>
        </header>
        <Begin onPreview={setDrawn} />
        <section className="flex flex-col gap-3">
          <Head>1 The case and its inside</Head>
          <div className="flex flex-wrap items-end gap-4">
            <TextField
              label="Name of the case"
              value={document.case.name ?? ""}
              onChange={(v) =>
                edit("name the case", (d) => {
                  d.case.name = v;
                })
              }
            />
            <DocText label="Revision" path={["case", "revision"]} />
            <DocSelect label="It is" path={["case", "kind"]} choices={KINDS} />
            <DocSelect label="Its window, seen from the front" path={["case", "window_side"]} choices={SIDES} />
          </div>
          <div className="flex flex-wrap gap-4">
            <Size label="Depth, front to rear" name="depth" light={setLit} />
            <Size label="Height, floor to top" name="height" light={setLit} />
            <Size label="Width, tray to window" name="width" light={setLit} />
          </div>
        </section>
        <BoardSection light={setLit} />
        <SupplySection />
        {FACES.map(({ value: face }, i) => (
          <FaceSection key={face} face={face} number={i + 4} light={setLit} onMount={setMount} chosen={mount} />
        ))}
        <WaysSection light={setLit} />
        <RailSection />
        <FamilySection />
        <PointSection />
        <RoomSection />
        <PrioritySection />
        <GrowthSection />
        <CaseFileSection />
        <Link to="/jobs/$jobId/parts" params={{ jobId: String(id) }} className="btn btn-primary btn-sm self-start">
          Next: lay the parts on the table
        </Link>
      </div>
      <div className="flex flex-col p-4 max-lg:order-first max-lg:h-[440px]">
        <div className="min-h-0 flex-1">
          <Cutaway
            doc={shown}
            zones
            chosen={mount}
            onChoose={setMount}
            litFace={lit}
            photo={photo.share}
            pins={photo.pins}
            onPlace={photo.onPlace}
            title="The case as surveyed, seen through the window side"
          />
        </div>
        {outside.length > 0 && !drawn && (
          <div role="alert" className="mb-2 rounded-md border border-error bg-paper p-2 text-small" data-outside={outside.length}>
            <strong>No forecast until this is put right:</strong>
            <ul className="list-inside list-disc">
              {outside.slice(0, 4).map((x) => (
                <li key={x.id}>
                  <Said text={x.what} />. <Said text={x.do} />
                </li>
              ))}
            </ul>
            {outside.length > 4 && <span className="text-faint">and {outside.length - 4} more</span>}
          </div>
        )}
        <PhotoBar photo={photo} mount={mount} />
        <p className="text-center text-small text-faint">
          {count} {count === 1 ? "mount" : "mounts"}, {((depth * height * width) / 1e6).toFixed(0)} litres inside. Click a mount
          to find its figures.
        </p>
      </div>
    </div>
  );
}

function Size({ label, name, light }: { label: string; name: "depth" | "height" | "width"; light: Light }) {
  const face = name === "width" ? "window" : name;
  return <CaseLength label={label} path={["case", "inner_mm", name]} name={`inner_mm.${name}`} onFocus={() => light(face)} />;
}
