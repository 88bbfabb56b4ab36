import type { Schemas } from "@/shared/api/client";
import { Figure } from "@/shared/charts/Figure";
import { Waterfall } from "@/shared/charts/Waterfall";
import { useUnits } from "@/shared/units/units";
import { channelWords } from "@/shared/words/words";
import { WORDS } from "./words";

export function LadderView({ ladder }: { ladder: Schemas["LadderOut"] }) {
  const units = useUnits();
  const l = ladder.ladder;
  const first = ladder.rungs[0];
  const last = ladder.rungs.at(-1);
  if (!first || !last) return null;
  const knee = l.knee
    ? `The knee is at ${l.knee}: no later step brings more than ${units.withUnit("difference", l.margin_k, 1)}.`
    : "No step pays.";
  const negative = l.negative.length
    ? ` Steps that make it warmer: ${l.negative.map((n) => `${n}${l.shown.includes(n) ? "" : " (not shown)"}`).join(", ")}.`
    : "";
  return (
    <section
      data-ladder={ladder.rungs.map((r) => r.layout).join("")}
      data-knee={l.knee ?? ""}
      data-negative={l.negative.join("")}
    >
      <Figure
        title={`Ladder ${ladder.rungs.map((r) => r.layout).join(" → ")}`}
        remark={channelWords(l.channel)}
        name="ladder"
        table={{
          head: ["to", "what was added", `step, ${units.unit("difference")}`, "±", "word", "noise added, dB"],
          rows: l.rungs.map((s, i) => [
            s.end,
            s.changes.join("; "),
            units.signed("difference", s.difference_k, 1),
            units.text("difference", s.expanded_k, 1),
            WORDS[s.word],
            ladder.noise[i] === null || ladder.noise[i] === undefined ? "" : units.signed("level", ladder.noise[i], 1),
          ]),
        }}
      >
        <Waterfall
          start={first.layout}
          end={last.layout}
          startValue={first.value}
          endValue={last.value}
          bars={l.rungs.map((s, i) => ({
            from: s.start,
            to: s.end,
            by: s.difference_k,
            band: s.expanded_k,
            shown: s.word === "better" || s.word === "worse",
            words: `${s.changes.join(", ")}${ladder.noise[i] === null || ladder.noise[i] === undefined ? "" : `; ${units.signed("level", ladder.noise[i], 1)} dB`}`,
          }))}
        />
      </Figure>
      <p className="text-body">
        {knee}
        {negative}
      </p>
    </section>
  );
}
