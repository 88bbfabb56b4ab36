import { useId, useState } from "react";
import { planCalendar, useOwnMinutes, usePlanOrders } from "@/shared/api/propose";
import { download } from "@/shared/charts/save";
import { useJob } from "@/shared/job/store";
import { Button, Head } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { hours } from "@/shared/units/hours";
import { num } from "@/shared/words/lists";
import { REBUILD_KINDS, SHEET_ORDERS, saidOfChoice, within } from "@/shared/words/words";

/** How long each kind of hand work takes this person; every order and every cost in time follows. */
function OwnMinutes() {
  const { id, document, edit } = useJob();
  const own = (document.practice?.minutes ?? {}) as Record<string, number>;
  const [open, setOpen] = useState(false);
  const { data: learned } = useOwnMinutes(id, document, open);
  const news = learned?.kinds.filter((k) => own[k.kind] !== k.minutes) ?? [];
  const take = () =>
    edit("minutes as the rebuilds had them", (d) => {
      const kept = { ...(d.practice?.minutes ?? {}) } as Record<string, number>;
      for (const k of news) kept[k.kind] = k.minutes;
      d.practice = { ...d.practice, minutes: kept } as typeof d.practice;
    });
  return (
    <details className="text-small" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer">Your own minutes by hand</summary>
      {learned && (
        <p className="mt-1 flex flex-wrap items-baseline gap-2" data-rebuilds={learned.rebuilds}>
          <span>
            {learned.rebuilds === 0
              ? "Once two runs of different layouts follow each other, the minutes between them are learned from."
              : `From ${learned.rebuilds} ${learned.rebuilds === 1 ? "rebuild" : "rebuilds"}: ${
                  news.length
                    ? news.map((k) => `${saidOfChoice(REBUILD_KINDS, k.kind)} ${k.minutes} min (usual ${k.usual})`).join(", ")
                    : "no minutes but those that stand here"
                }.`}
          </span>
          {news.length > 0 && (
            <Button small onClick={take}>
              take them
            </Button>
          )}
        </p>
      )}
      <div className="mt-2 flex flex-wrap gap-3">
        {REBUILD_KINDS.map((kind) => (
          <NumberField
            key={kind.value}
            label={`${kind.words}, min`}
            digits={1}
            optional={`${kind.minutes}`}
            value={own[kind.value]}
            {...within("ask.rebuild_min")}
            onCommit={(v) =>
              edit(`minutes: ${kind.words}`, (d) => {
                const kept = { ...(d.practice?.minutes ?? {}) } as Record<string, number>;
                if (v === null) delete kept[kind.value];
                else kept[kind.value] = v;
                d.practice = { ...d.practice, minutes: kept } as typeof d.practice;
              })
            }
          />
        ))}
      </div>
    </details>
  );
}

/** The evening in one's own calendar. */
function Calendar() {
  const { id, document } = useJob();
  const [begins, setBegins] = useState("");
  const [fault, setFault] = useState("");
  const field = useId();
  const take = async () => {
    try {
      setFault("");
      download("run-sheet.ics", new Blob([await planCalendar(document, id, new Date(begins))], { type: "text/calendar" }));
    } catch (e) {
      setFault(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <div className="flex flex-wrap items-center gap-2 text-small">
      <label htmlFor={field}>Begins</label>
      <input
        id={field}
        type="datetime-local"
        className="input input-sm w-auto"
        value={begins}
        onChange={(e) => setBegins(e.target.value)}
      />
      <Button small disabled={!begins} onClick={() => void take()}>
        calendar file
      </Button>
      {fault && (
        <span role="alert" className="text-error">
          {fault}
        </span>
      )}
    </div>
  );
}

/** The same runs in other orders, with what each takes: rebuilding saved against drift met. */
export function Orders({ fresh }: { fresh: boolean }) {
  const { document, edit } = useJob();
  const { data } = usePlanOrders(document);
  const listed = data?.find((x) => x.order.kind === "listed");
  if (!data || !listed || data.length < 2) return null;
  return (
    <section className="flex flex-col gap-1.5" data-orders={data.length}>
      <Head remark="the same runs, other orders">Order</Head>
      <table className="w-full max-w-3xl text-small">
        <tbody>
          {data.map(({ order, runs }) => {
            const saved = listed.order.minutes - order.minutes;
            const same = order.order.join() === listed.order.order.join();
            return (
              <tr key={order.kind} className="border-t hairline align-baseline" data-order={order.kind}>
                <td className="py-1 pr-3 whitespace-nowrap">{saidOfChoice(SHEET_ORDERS, order.kind)}</td>
                <td className="pr-3 font-mono text-fine break-words">{order.order.join(" ")}</td>
                <td className="pr-3 text-right font-mono whitespace-nowrap">{hours(order.minutes)}</td>
                <td className="pr-3 text-fine whitespace-nowrap text-faint">
                  {order.kind === "least"
                    ? order.exact
                      ? "none takes less"
                      : `at most ${hours(num(order.gap_min))} could be saved`
                    : Math.abs(saved) >= 1 && order.kind !== "listed"
                      ? `${hours(Math.abs(saved))} ${saved > 0 ? "less" : "more"}`
                      : ""}
                </td>
                <td className="text-right">
                  {order.kind !== "listed" && !same && (
                    <Button
                      small
                      disabled={!fresh}
                      title={fresh ? undefined : "Runs have been made: their order stands"}
                      onClick={() =>
                        edit(`order: ${saidOfChoice(SHEET_ORDERS, order.kind)}`, (d) => {
                          if (d.plan) d.plan.runs = structuredClone(runs);
                        })
                      }
                    >
                      take it
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <OwnMinutes />
      <Calendar />
      <p className="text-fine text-faint">
        The least time is least rebuilding; shuffled, or round by round, whatever drifts over the evening meets every layout
        alike.
      </p>
    </section>
  );
}
