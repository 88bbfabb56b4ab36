import { Link } from "@tanstack/react-router";
import { useRanking } from "@/shared/api/hooks";
import { layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { missingParts, useWorkbench } from "@/shared/job/workbench";
import { Head } from "@/shared/ui/bits";
import { count } from "@/shared/words/lists";

/** Layouts in the order of the person's own weights, from the forecast; what each is charged with can be read. */
export function WhatMatters() {
  const { document } = useJob();
  return missingParts(document).length || count(document.layouts) < 2 ? null : <Order />;
}

function Order() {
  const { document, id } = useJob();
  const { conditions, choose, layoutId } = useWorkbench();
  const { data } = useRanking(document, conditions);
  return (
    <section className="flex flex-col gap-1.5" data-order={data?.map((r) => r.layout).join("") ?? ""}>
      <Head remark="forecast">By what matters to you</Head>
      <ol className="flex flex-col gap-1 text-small">
        {data?.map((r) => {
          const most = [...r.shares]
            .filter((s) => s.adds > 0.05)
            .sort((a, b) => b.adds - a.adds)
            .slice(0, 2);
          return (
            <li key={r.layout}>
              <button
                type="button"
                className={`flex w-full cursor-pointer items-baseline gap-2 rounded-md border px-2 py-1 text-left ${
                  r.layout === layoutId ? "border-base-content" : "hairline"
                } ${r.beaten_by ? "opacity-60" : ""}`}
                onClick={() => choose(r.layout)}
              >
                <strong className="wide">{r.layout}</strong>
                <span className="flex-1 leading-snug">
                  {layoutOf(document, r.layout)?.name}
                  <span className="block text-fine text-faint">
                    {r.beaten_by
                      ? `${r.beaten_by} is no worse in anything that matters`
                      : most.length
                        ? `charged for ${most.map((s) => s.words.split(",")[0]).join(" and ")}`
                        : "best in all that matters"}
                  </span>
                </span>
                <span className="font-mono">{r.burden.toFixed(1)}</span>
              </button>
            </li>
          );
        })}
      </ol>
      <p className="text-fine text-faint">
        Weights times steps behind the best (5 K, 3 dB, 25 in cost, 30 minutes, 20 % unfiltered). Set the weights in{" "}
        <Link to="/jobs/$jobId/survey" params={{ jobId: String(id) }} className="underline">
          Survey
        </Link>
        .
      </p>
    </section>
  );
}
