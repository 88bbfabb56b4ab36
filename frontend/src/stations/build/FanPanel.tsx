import { useState } from "react";
import type { BuiltFan } from "@/shared/api/build";
import type { Schemas } from "@/shared/api/client";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { Drawing } from "./Steps";

/** A fan as it is seen; a press turns the drawing to the side one stands at. */
export function FanPanel({ fan, pictures }: { fan: BuiltFan; pictures: Schemas["FanPictures"] | undefined }) {
  const { lead } = fan;
  const units = useUnits();
  return (
    <article className="flex gap-3 rounded-box border hairline bg-paper p-3 max-sm:flex-col" data-fan={fan.mount}>
      {pictures && <Turned fan={fan} pictures={pictures} />}
      <div className="min-w-0 text-small">
        <h3 className="text-body">
          {fan.mount.toUpperCase()}
          {fan.layer === "inner" && " inner"}: {fan.name}, {fan.size_mm.toFixed(0)} mm
        </h3>
        <p>Air goes {fan.blows === "intake" ? "into" : "out of"} the case.</p>
        <p>
          From {fan.seen_from} you see its {fan.side_seen} side.
        </p>
        <p>
          Lead out at the corner: {fan.exit}
          {lead.to ? `, to ${lead.to}${lead.via ? ` by ${lead.via}` : ""}` : "; no header named yet"}
          {lead.length_mm !== null && `, ${units.withUnit("length", lead.length_mm)}`}
          {lead.needs_mm !== null && ` where about ${units.withUnit("length", lead.needs_mm)} are needed`}
          {(lead.through ?? []).length > 1 && `; in by the hole ${lead.through?.join(", behind the board, out by ")}`}.
        </p>
        <p>
          <Said text={fan.screws} />.
        </p>
        <p>
          Label: <strong className="font-mono">{fan.label}</strong>;{" "}
          {!fan.running
            ? "stays unplugged"
            : fan.curve
              ? `curve ${fan.curve}`
              : `${fan.speed_pct.toFixed(0)} %, about ${fan.speed_rpm.toFixed(0)} rpm`}
        </p>
      </div>
    </article>
  );
}

export function Turned({ fan, pictures }: { fan: BuiltFan; pictures: Schemas["FanPictures"] }) {
  const [inside, setInside] = useState(false);
  const where = inside ? fan.inside_from : fan.seen_from;
  return (
    <figure className="w-44 shrink-0">
      <Drawing
        svg={inside ? pictures.inside : pictures.outside}
        words={`${fan.mount.toUpperCase()} from ${where}: ${inside ? fan.side_inside : fan.side_seen} side`}
      />
      <figcaption className="flex flex-col items-start gap-1 text-fine">
        from {where}: {inside ? fan.side_inside : fan.side_seen} side
        <button
          type="button"
          className="btn btn-xs btn-outline no-print"
          aria-pressed={inside}
          onClick={() => setInside(!inside)}
        >
          seen from {inside ? fan.seen_from : fan.inside_from}
        </button>
      </figcaption>
    </figure>
  );
}
