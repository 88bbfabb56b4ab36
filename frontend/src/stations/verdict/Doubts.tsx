import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import type { Verdict } from "@/shared/api/hooks";
import { planAgain } from "@/shared/job/plan";
import { useJob } from "@/shared/job/store";
import { Button, Head } from "@/shared/ui/bits";
import { Words } from "@/shared/ui/sentence";

const FIRST = 4;

/** What speaks against the verdict and what was not tested, each with what would settle it. */
export function Doubts({ v }: { v: Verdict }) {
  const { id, edit } = useJob();
  const go = useNavigate();
  const [all, setAll] = useState(false);
  const plan = (layouts: string[]) => {
    edit(`plan ${layouts.join(" and ")} once more`, (d) => planAgain(d, layouts, v.load));
    void go({ to: "/jobs/$jobId/plan", params: { jobId: String(id) } });
  };
  const shown = all ? v.doubts : v.doubts.slice(0, FIRST);
  return (
    <section className="flex flex-col" data-doubts={v.doubts.length}>
      <Head remark={v.doubts.length ? String(v.doubts.length) : "none"}>Doubts</Head>
      <ol className="text-small leading-snug">
        {shown.map((d, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: doubts have no names of their own
          <li key={i} className="flex flex-col items-start gap-1 border-b hairline py-1.5" data-doubt={d.code}>
            <span className="font-semibold">
              <span aria-hidden="true">{d.weight === "untested" ? "◇" : "!"}</span> <Words parts={d.what} />
            </span>
            <span className="text-faint">
              <Words parts={d.because} />
            </span>
            {d.plan.length > 0 && (
              <Button small onClick={() => plan(d.plan)}>
                Plan {d.plan.join(" and ")} once more
              </Button>
            )}
          </li>
        ))}
      </ol>
      {v.doubts.length > FIRST && (
        <button type="button" className="cursor-pointer self-start py-1 text-fine underline" onClick={() => setAll(!all)}>
          {all ? "fewer" : `${v.doubts.length - FIRST} more`}
        </button>
      )}
    </section>
  );
}
