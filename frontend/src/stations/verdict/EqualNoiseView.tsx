import type { Schemas } from "@/shared/api/client";
import { Curves } from "@/shared/charts/Curves";
import { Figure } from "@/shared/charts/Figure";
import { NumberField } from "@/shared/ui/NumberField";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { channelWords, within } from "@/shared/words/words";
import { useDifference } from "./difference";
import { SIGN, WORDS } from "./words";

export function EqualNoiseView({
  equal,
  level,
  onLevel,
}: {
  equal: Schemas["EqualNoise"];
  level: number | null;
  onLevel: (l: number | null) => void;
}) {
  const units = useUnits();
  const difference = useDifference();
  const curves = [...new Set(equal.points.map((p) => p.family))].map((family) => ({
    name: family,
    points: equal.points
      .filter((p) => p.family === family)
      .map((p) => ({ name: p.layout, x: p.level_dba, y: p.rise_k, band: p.rise_band_k })),
  }));
  const single = equal.points.filter((p) => equal.rows.some((r) => r.family === p.family && r.rise_k === null));
  const marks = equal.rows
    .filter((r) => r.rise_k !== null)
    .map((r) => ({
      curve: r.family,
      x: r.level_dba,
      y: num(r.rise_k),
      band: num(r.expanded_k),
      beyond: r.place === "beyond",
    }));
  return (
    <section className="flex flex-col gap-2" data-equal-noise={equal.level_dba.toFixed(1)}>
      <Figure
        title="At the same level"
        remark={
          equal.levels && equal.one_speed
            ? `every one was run at ${equal.level_dba.toFixed(1)} dBA`
            : equal.levels
              ? `all with several speeds: ${equal.levels[0].toFixed(1)} to ${equal.levels[1].toFixed(1)} dBA`
              : "no level that all were run at"
        }
        name="equal-noise"
        table={{
          head: ["layout", "level, dBA", `rise, ${units.unit("difference")}`, "±", "how"],
          rows: equal.rows.map((r) => [
            r.family,
            r.level_dba.toFixed(1),
            r.rise_k === null ? "" : units.text("difference", r.rise_k, 1),
            r.expanded_k === null || r.expanded_k === undefined ? "" : units.text("difference", r.expanded_k, 1),
            r.words,
          ]),
        }}
      >
        <div className="flex flex-wrap items-start gap-6">
          <Curves curves={curves} marks={marks} level={equal.level_dba} words={channelWords(equal.channel)} />
          <div className="flex min-w-64 flex-1 flex-col gap-2">
            <NumberField
              label="Level, dBA"
              {...within("ask.level_dba")}
              digits={1}
              optional="chosen"
              value={level ?? Number(equal.level_dba.toFixed(1))}
              onCommit={onLevel}
            />
            <ul className="text-small">
              {equal.rows
                .filter((r) => r.rise_k !== null)
                .map((r) => (
                  <li
                    key={r.family}
                    className={`border-b hairline py-0.5 ${r.place === "beyond" ? "text-faint" : ""}`}
                    data-at-level={r.family}
                    data-place={r.place}
                  >
                    <strong className="wide">{r.family}</strong>{" "}
                    {r.rise_k !== null && (
                      <span className="font-mono">
                        {units.text("difference", r.rise_k, 1)}
                        {typeof r.expanded_k === "number" && ` ${units.band("difference", r.expanded_k, 1)}`}{" "}
                        {units.unit("difference")}
                      </span>
                    )}{" "}
                    <span className="text-fine">
                      <Said text={r.words} />
                    </span>
                  </li>
                ))}
            </ul>
            {single.length > 0 && (
              <p className="text-fine text-faint" data-single={single.map((p) => p.layout).join("")}>
                Run at one speed only: {single.map((p) => `${p.layout} at ${p.level_dba.toFixed(1)}`).join(", ")} dBA. Run them at
                another speed to read them here.
              </p>
            )}
          </div>
        </div>
      </Figure>
      {equal.pairs.length > 0 && (
        <p className="text-small">
          {equal.pairs.slice(0, 6).map((p) => (
            <span
              key={`${p.start}${p.end}`}
              className="mr-4 whitespace-nowrap"
              data-level-pair={`${p.end} ${p.start}`}
              data-word={p.word}
            >
              {p.end} against {p.start}: <span className="font-mono">{difference(p.difference_k, p.expanded_k)}</span>{" "}
              <span aria-hidden="true">{SIGN[p.word]}</span> {WORDS[p.word]}
            </span>
          ))}
        </p>
      )}
      <p className="text-fine text-faint">
        Filled squares are read between two speeds of the same layout or at one of them; hollow ones lie beyond its own curve and
        are not ranked.
      </p>
    </section>
  );
}
