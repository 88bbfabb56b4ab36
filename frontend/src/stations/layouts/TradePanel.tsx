import { useState } from "react";
import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { useTrade } from "@/shared/api/hooks";
import { Figure } from "@/shared/charts/Figure";
import { Steps } from "@/shared/charts/Steps";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head, Segments, Working } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { saidOfChoice, TRADES } from "@/shared/words/words";

type Part = "cpu" | "card";
type Step = Schemas["TradeStep"];
const PARTS = [
  { value: "cpu" as const, words: "processor" },
  { value: "card" as const, words: "card" },
];

/** Radiator, number and size of fans against speed: what each is worth with the same heat, and with the same sound. */
export function TradePanel({ layout }: { layout: LayoutDoc }) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const [part, setPart] = useState<Part>("cpu");
  const { data, error } = useTrade({ document, layout: layout.id, conditions }, part);
  if (error) return <p role="alert">No answer: {error.message}</p>;
  if (!data) return <Working words="Radiators and fans are being tried …" />;
  const lists = Object.entries(data.against) as [string, Step[]][];
  const dba = (v: number | null) => (v === null ? "–" : units.text("level", v, 1));
  return (
    <section className="flex flex-col gap-3" data-trade={lists.length}>
      <Head remark={data.learned ? "as learned, one speed for all" : "one speed for all"}>What speed buys</Head>
      <Segments label="Held where it is" value={part} choices={PARTS} onChange={setPart} />
      <p className="text-small">
        Held at {units.withUnit("difference", data.held_k, 0)} over room: how fast the fans must turn, and how loud that is.
        Beside it the rise with the sound as it is, {units.withUnit("level", data.held_dba)}.
      </p>
      {!lists.length && (
        <p className="text-small text-faint">There is nothing to choose between: one fan, and one kind on the table.</p>
      )}
      {lists.map(([against, steps]) => (
        <Figure
          key={against}
          name={`speed against ${against}`}
          title={saidOfChoice(TRADES, against)}
          table={{
            head: ["choice", "speed, rpm", "sound, dBA", `rise at equal sound, ${units.unit("difference")}`],
            rows: steps.map((s) => [
              s.words,
              s.rpm?.toFixed(0) ?? "not even at full speed",
              dba(s.level_dba),
              s.rise_k === null ? "louder at its slowest" : units.text("difference", s.rise_k, 1),
            ]),
          }}
        >
          <Steps
            words={`speed that holds the ${part === "cpu" ? "processor" : "card"}`}
            points={steps.map((s) => ({ words: s.words, value: s.rpm, now: s.now }))}
            text={(v) => `${v.toFixed(0)} rpm`}
          />
          <table className="w-full text-fine">
            <tbody>
              {steps.map((s) => (
                <tr
                  key={s.words}
                  className={`border-t hairline ${s.now ? "font-semibold" : ""}`}
                  data-step={s.words}
                  data-rpm={s.rpm ?? "none"}
                >
                  <td className="py-0.5">{s.words}</td>
                  <td className="text-right font-mono">{dba(s.level_dba)} dBA</td>
                  <td className="pl-2 text-right font-mono">
                    {s.rise_k === null ? "louder" : units.withUnit("difference", s.rise_k, 0)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Figure>
      ))}
    </section>
  );
}
