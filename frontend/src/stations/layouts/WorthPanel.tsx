import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { useWorth } from "@/shared/api/hooks";
import { freeLayoutId } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head } from "@/shared/ui/bits";
import { Term } from "@/shared/ui/Term";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { measurements, num } from "@/shared/words/lists";

type FanRung = Schemas["FanRung"];
type Single = Schemas["Single"];
const ASKS = { free: "free", work: "work", money: "money" } as const;

/** What each fan brings, one after the other, and what single changes would: what is free stands first. */
export function WorthPanel({ layout }: { layout: LayoutDoc }) {
  const { document, edit } = useJob();
  const { conditions, choose } = useWorkbench();
  const units = useUnits();
  const { data, error } = useWorth({ document, layout: layout.id, conditions });
  const k = (v: number | null | undefined) => (v === null || v === undefined ? "–" : units.signed("difference", v, 1));
  if (error) return <p role="alert">No answer: {error.message}</p>;
  if (!data) return <p className="text-small text-faint">Fans are taken out and put back one by one …</p>;
  const knee = data.rungs.findIndex((r) => r.knee);
  const most = Math.max(...data.rungs.map((r) => Math.abs(Math.min(r.cpu_k, num(r.card_k)))), 1);
  const lost = num(data.bare_lost_w[0]) + num(data.bare_lost_w[1]);
  const tryIt = (s: Single) => {
    const fresh = freeLayoutId(document);
    edit(`${fresh}: ${s.words.toLowerCase()}`, (d) => {
      d.layouts = [
        ...(d.layouts ?? []),
        { ...(s.layout as LayoutDoc), id: fresh, name: s.words, parent: layout.id, accepted: [] },
      ];
    });
    choose(fresh);
  };
  return (
    <div className="flex flex-col gap-5 text-small" data-worth={data.rungs.length} data-knee={knee}>
      <section className="flex flex-col gap-1.5">
        <Head remark={data.taught_by > 0 ? "forecast, by the parts' sheets" : "forecast"}>What each fan is worth</Head>
        {!data.rungs.length && <p>No fan turns in this layout.</p>}
        {data.rungs.length > 0 && (
          <table className="w-full">
            <thead className="text-left text-faint">
              <tr>
                <th className="font-normal">with</th>
                <th className="text-right font-normal">processor, K</th>
                <th className="text-right font-normal">card, K</th>
                <th className="text-right font-normal">dB</th>
              </tr>
            </thead>
            <tbody>
              <tr className="border-t hairline text-faint">
                <td className="py-0.5">
                  no fan, over room
                  {lost > 1 && <span className="block text-fine">{lost.toFixed(0)} W given up</span>}
                </td>
                <td className="text-right font-mono">{units.text("difference", data.bare_cpu_rise_k, 0)}</td>
                <td className="text-right font-mono">
                  {data.bare_card_rise_k !== null && units.text("difference", data.bare_card_rise_k, 0)}
                </td>
                <td />
              </tr>
              {data.rungs.map((r, i) => (
                <RungRow
                  key={`${r.mount} ${r.layer}`}
                  rung={r}
                  share={Math.min(r.cpu_k, num(r.card_k)) / most}
                  nth={i + 1}
                  k={k}
                />
              ))}
            </tbody>
          </table>
        )}
        {knee >= 0 && (
          <p className="text-faint">
            Under the line a further fan brings less than {units.withUnit("difference", data.pays_k, 0)} to either part.
          </p>
        )}
      </section>
      <section className="flex flex-col gap-1.5">
        <Head remark="what is free first">One change at a time</Head>
        {data.taught_by > 0 && <p className="text-faint">As {measurements(data.taught_by)} taught.</p>}
        {data.singles.map((s) => (
          <div key={s.words} className="flex items-start gap-2 border-b hairline pb-1" data-single={s.asks}>
            <span className="min-w-0 flex-1 leading-snug">
              <Said text={s.words} />
              <span className="block font-mono text-fine">
                processor {k(s.cpu_k)}
                {s.card_k !== null && <>, card {k(s.card_k)}</>} {units.unit("difference")},{" "}
                {units.signed("level", s.sound_db, 1)} dB
              </span>
              <span className="block text-fine text-faint">
                {ASKS[s.asks]}
                {s.minutes > 0 && `, ${s.minutes.toFixed(0)} min`}
                {s.asks === "money" && (s.cost === null ? ", price not known" : `, ${s.cost.toFixed(2)}`)}
              </span>
            </span>
            <Button small onClick={() => tryIt(s)} title="Becomes a layout of its own; this one stays as it is">
              try it
            </Button>
          </div>
        ))}
        <p className="text-faint">
          Differences up to {units.withUnit("difference", data.least_apart_k, 1)} are too close to call; a run decides.
        </p>
      </section>
    </div>
  );
}

function RungRow(props: { rung: FanRung; share: number; nth: number; k: (v: number | null | undefined) => string }) {
  const { rung: r, k } = props;
  return (
    <tr
      className={`border-t ${r.knee ? "border-b-2 border-b-base-content" : ""} hairline`}
      data-rung={r.mount}
      data-harms={r.harms}
    >
      <td className="py-1">
        {props.nth} {r.mount.toUpperCase()}
        {r.layer === "inner" ? ", inner" : ""} {r.direction === "intake" ? "in" : "out"}
        <span
          className={`mt-0.5 block h-1 rounded ${r.harms ? "bg-error" : "bg-accent"}`}
          style={{ width: `${Math.round(Math.min(Math.abs(props.share), 1) * 100)}%` }}
        />
        {r.harms && <span className="text-fine text-error">makes it warmer</span>}
        {r.knee && (
          <span className="block text-fine font-semibold">
            <Term t="knee" />
          </span>
        )}
      </td>
      <td className="text-right font-mono">{k(r.cpu_k)}</td>
      <td className="pl-2 text-right font-mono">{k(r.card_k)}</td>
      <td className="pl-2 text-right font-mono">{r.sound_db.toFixed(1)}</td>
    </tr>
  );
}
