import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { useComparison, useVerdicts } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Empty, Head } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { Claim } from "./Claim";
import { Decision } from "./Decision";
import { Evidence } from "./Evidence";
import { PairTable } from "./PairTable";
import { WhatMatters } from "./WhatMatters";

/** An argument: the claim, its evidence, its doubts, the decision. */
export function VerdictStation() {
  const { id } = useJob();
  const bench = useWorkbench();
  const [margin, setMargin] = useState(1.5);
  const comparison = useComparison(id, margin);
  const verdicts = useVerdicts(id);
  const figures = comparison.data?.figures ?? [];
  const measured = [...new Set(figures.map((f) => f.layout))];
  if (comparison.data && measured.length < 2)
    return (
      <div className="p-10">
        <Empty title="Nothing to compare yet">
          <p>
            A verdict needs runs of at least two layouts.{" "}
            {measured.length === 1 ? `${measured[0]} has been run; run one more.` : "None has been run."}
          </p>
          <Link to="/jobs/$jobId/bench" params={{ jobId: String(id) }} className="btn btn-sm btn-primary">
            Go to Bench
          </Link>
        </Empty>
        <div className="mx-auto mt-6 max-w-md">
          <WhatMatters />
        </div>
      </div>
    );
  if (!comparison.data) return <p className="p-6">{comparison.error?.message ?? "Comparing …"}</p>;
  const chosen = measured.includes(bench.layoutId) ? bench.layoutId : (measured[0] ?? "");
  const newest = verdicts.data?.[0];
  return (
    <div className="flex h-full max-lg:h-auto max-lg:flex-col">
      <div className="flex min-w-0 flex-1 flex-col gap-6 overflow-y-auto p-5">
        <Claim pairs={comparison.data.pairs} chosen={chosen} decided={newest?.layout ?? null} />
        <Evidence figures={figures} chosen={chosen} />
        <PairTable pairs={comparison.data.pairs} chosen={chosen} />
      </div>
      <aside
        className="flex w-[310px] shrink-0 max-lg:w-full max-lg:border-t max-lg:border-l-0 flex-col gap-5 overflow-y-auto border-l border-base-content bg-paper p-4"
        aria-label="Decision"
      >
        <section className="flex flex-col gap-2">
          <Head>What counts as a difference</Head>
          <NumberField
            label="Smaller than this does not matter to you"
            kind="difference"
            low={0.2}
            high={10}
            value={margin}
            onCommit={(v) => v && setMargin(v)}
          />
          <p className="text-[12.5px] text-faint">
            Over room, 95 %, corrected for the number of comparisons. Without repeats, run-to-run scatter is taken as 0.5 K.
          </p>
        </section>
        <WhatMatters />
        <Doubts pairs={comparison.data.pairs} />
        <Decision chosen={chosen} margin={margin} />
      </aside>
    </div>
  );
}

function Doubts({ pairs }: { pairs: { confounders: string[] }[] }) {
  const all = [...new Set(pairs.flatMap((p) => p.confounders))];
  return (
    <section>
      <Head remark={all.length ? String(all.length) : "none"}>Doubts</Head>
      <ul className="text-[13px] leading-snug">
        {all.map((d) => (
          <li key={d} className="border-b hairline py-1.5">
            {d}
          </li>
        ))}
      </ul>
    </section>
  );
}
