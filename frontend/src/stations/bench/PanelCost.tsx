import { usePanelCosts } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { Head } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { channelWords, RESTRICTS, said } from "@/shared/words/words";

/** What a panel costs, where runs of the same layout with it fitted and off are there. */
export function PanelCost({ layoutId }: { layoutId: string }) {
  const { id } = useJob();
  const units = useUnits();
  const found = usePanelCosts(id);
  const rows = (found.data ?? []).filter((r) => r.with_it === layoutId || r.without === layoutId);
  if (!rows.length) return null;
  return (
    <section className="flex flex-col gap-1" aria-label="What a panel costs">
      <Head remark="runs with it fitted and off">What a panel costs</Head>
      {rows.map((r) => (
        <p key={r.words + r.with_it + r.without + r.channel} className="text-body" data-rating={r.rating} data-word={r.word}>
          {r.word === "cannot_tell" ? (
            <>
              Whether the {r.words} restricts the {channelWords(r.channel)} <strong>cannot be told yet</strong>:{" "}
            </>
          ) : (
            <>
              The {r.words} restricts the {channelWords(r.channel)} <strong>{said(RESTRICTS, r.rating)}</strong>:{" "}
            </>
          )}
          <span className="font-mono">
            {units.signed("difference", r.difference_k, 1)} {units.band("difference", r.expanded_k, 1)} {units.unit("difference")}
            {r.share_pct !== null && `, ${units.signed("share", r.share_pct)} %`}
          </span>{" "}
          over room with it fitted ({r.with_it}) against off ({r.without}).
        </p>
      ))}
    </section>
  );
}
