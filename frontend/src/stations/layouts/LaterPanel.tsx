import { Link } from "@tanstack/react-router";
import type { LayoutDoc } from "@/shared/api/client";
import { useSheet } from "@/shared/api/hooks";
import { addLayout, duplicateLayout, freeLayoutId, layoutOf, putFan } from "@/shared/job/edits";
import { DocText } from "@/shared/job/fields";
import { Rows } from "@/shared/job/Rows";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Working } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { count, num } from "@/shared/words/lists";

/** What is left over and what may come: spare mounts and fans, cost, later loads, ideas to try. */
export function LaterPanel({ layout }: { layout: LayoutDoc }) {
  const { document, id, edit } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const { data } = useSheet({ document, layout: layout.id, conditions });
  const kelvin = (v: number | null) => (v === null ? "" : units.signed("difference", v, 1));
  return (
    <div className="flex flex-col gap-5 text-small" data-sheet={data?.layout ?? "waiting"}>
      {!data && <Working />}
      <section className="flex flex-col gap-1.5">
        <Head remark="what a fan from those left would do">Spare mounts</Head>
        {data?.spare.length === 0 && <p>Every mount carries a fan.</p>}
        {data?.spare.map((s) => (
          <div key={s.mount} className="flex items-center gap-2" data-spare={s.mount}>
            <strong className="w-8">{s.mount.toUpperCase()}</strong>
            {s.fan ? (
              <>
                <span className="flex-1 leading-snug">
                  {s.direction === "intake" ? "in" : "out"}: processor {kelvin(s.cpu_k)}
                  {s.card_k !== null && <>, card {kelvin(s.card_k)}</>} {units.unit("difference")}
                </span>
                <Button
                  small
                  onClick={() =>
                    edit(`put a fan at ${s.mount.toUpperCase()}`, (d) =>
                      putFan(d, layout.id, s.mount, s.fan ?? "", s.direction as "intake" | "exhaust", false),
                    )
                  }
                >
                  put it
                </Button>
              </>
            ) : (
              <span className="text-faint">no fan left that fits</span>
            )}
          </div>
        ))}
      </section>
      <section className="flex flex-col gap-1.5">
        <Head remark={document.scenarios?.length ? "at the warmest room" : ""}>Later loads</Head>
        {!document.scenarios?.length && (
          <p>
            Say in{" "}
            <Link to="/jobs/$jobId/survey" params={{ jobId: String(id) }} className="underline">
              Survey
            </Link>
            , under what may come later, what load you expect; here it says whether this layout has enough left.
          </p>
        )}
        {data?.growth.map((g) => (
          <p key={g.id} data-growth={g.enough ? "enough" : "not"}>
            <strong>{g.name}</strong>: processor {units.withUnit("temperature", g.cpu_c, 0)}
            {g.card_c !== null && <>, card {units.withUnit("temperature", g.card_c, 0)}</>};{" "}
            <span className={g.enough ? "" : "text-warning"}>
              <Said text={g.words} />
            </span>
          </p>
        ))}
      </section>
      <section className="flex flex-col gap-1.5">
        <Head remark="with this layout">Fans on hand</Head>
        {data?.stock.map((s) => (
          <p key={s.fan} className="flex justify-between gap-2" data-stock={s.fan}>
            <span>{s.name}</span>
            <span className="font-mono whitespace-nowrap">
              {s.used} used
              {s.on_hand === null ? "" : s.spare !== null && s.spare >= 0 ? `, ${s.spare} spare` : `, ${-num(s.spare)} short`}
            </span>
          </p>
        ))}
        <p className="text-faint">Count them in Parts; fans that a radiator displaces show here as spare.</p>
      </section>
      <section className="flex flex-col gap-1.5">
        <Head remark={data ? data.total.toFixed(2) : ""}>Cost of what moves heat</Head>
        {data?.cost.map((c) => (
          <p key={c.name} className="flex justify-between gap-2">
            <span>
              {c.count} × {c.name}
            </span>
            <span className="font-mono">{c.each === null ? "no price" : (c.each * c.count).toFixed(2)}</span>
          </p>
        ))}
      </section>
      <Ideas layoutId={layout.id} />
    </div>
  );
}

/** Things that somebody suggested; each can become a layout of its own. */
function Ideas({ layoutId }: { layoutId: string }) {
  const { document, edit } = useJob();
  const bench = useWorkbench();
  const promote = (at: number, copy: boolean) => {
    const fresh = freeLayoutId(document);
    edit(`idea becomes layout ${fresh}`, (d) => {
      const idea = d.ideas?.[at];
      if (!idea) return;
      if (copy) duplicateLayout(d, layoutId, fresh);
      else addLayout(d, fresh);
      idea.layout = fresh;
      const own = layoutOf(d, fresh);
      if (own) {
        own.name = idea.text.slice(0, 40);
        own.note = idea.text;
      }
    });
    bench.choose(fresh);
  };
  return (
    <section className="flex flex-col gap-1.5" data-ideas={count(document.ideas)}>
      <Head remark="somebody suggested …">Ideas to try</Head>
      <Rows
        path={["ideas"]}
        one="an idea"
        stem="i"
        fresh={() => ({ text: "turn the top fan round" })}
        title={() => ""}
        fields={[]}
        inside={(at, row) => (
          <div className="flex flex-wrap items-end gap-2">
            <DocText label="What to try" path={[...at, "text"]} wide compact />
            {row.layout ? (
              <button type="button" className="cursor-pointer underline" onClick={() => bench.choose(String(row.layout))}>
                became layout {String(row.layout)}
              </button>
            ) : (
              <Button small onClick={() => promote(Number(at.at(-1)), true)}>
                make it a layout from {layoutId}
              </Button>
            )}
          </div>
        )}
      />
    </section>
  );
}
