import { usePanelCosts } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Head } from "@/shared/ui/bits";
import { channelWords } from "@/shared/ui/channels";

/** What a panel costs, where runs of the same layout with it fitted and off are there. */
export function PanelCost({ layoutId }: { layoutId: string }) {
  const { id } = useJob();
  const found = usePanelCosts(id);
  const rows = (found.data ?? []).filter((r) => r.fitted === layoutId || r.removed === layoutId);
  if (!rows.length) return null;
  return (
    <section className="flex flex-col gap-1" aria-label="What a panel costs">
      <Head remark="runs with it fitted and off">What a panel costs</Head>
      {rows.map((r) => (
        <p key={r.panel + r.fitted + r.removed + r.channel} className="text-[14px]" data-rating={r.rating}>
          The {r.panel} panel restricts the {channelWords(r.channel)}{" "}
          <strong>{r.rating === "little" ? "little" : r.rating === "moderate" ? "moderately" : "strongly"}</strong>:{" "}
          <span className="font-mono">
            {r.share_pct >= 0 ? "+" : "−"}
            {Math.abs(r.share_pct).toFixed(0)} %
          </span>{" "}
          over room with it fitted ({r.fitted}) against off ({r.removed}).
        </p>
      ))}
    </section>
  );
}
