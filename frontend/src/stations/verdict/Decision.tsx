import { useState } from "react";
import { useGiveVerdict, useVerdicts } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head, Select } from "@/shared/ui/bits";

/** The picked layout with its written reason; earlier decisions stay readable. */
export function Decision({ chosen, margin }: { chosen: string; margin: number }) {
  const { id, document } = useJob();
  const { choose } = useWorkbench();
  const give = useGiveVerdict(id);
  const verdicts = useVerdicts(id);
  const [reason, setReason] = useState("");
  return (
    <section className="flex flex-col gap-2">
      <Head>Decision</Head>
      <Select
        label="Build layout"
        value={chosen}
        choices={(document.layouts ?? []).map((x) => ({ value: x.id, words: `${x.id}, ${x.name ?? ""}` }))}
        onChange={choose}
      />
      <label className="flex flex-col gap-0.5 text-[12.5px] text-faint">
        Because
        <textarea
          className="textarea textarea-sm h-24 w-full text-[13.5px] text-base-content"
          value={reason}
          placeholder="What decided it, and what was given up for it"
          onChange={(e) => setReason(e.target.value)}
        />
      </label>
      <button
        type="button"
        className="btn btn-primary"
        disabled={!reason.trim() || give.isPending}
        onClick={() => give.mutate({ layout: chosen, reason, margin_k: margin }, { onSuccess: () => setReason("") })}
      >
        Record this verdict
      </button>
      {!reason.trim() && <p className="text-[12.5px] text-faint">Write the reason first; it is kept with the figures.</p>}
      {give.error && <p className="text-[13px] text-error">{give.error.message}</p>}
      {verdicts.data?.map((v) => (
        <blockquote key={v.id} className="border-l-2 border-base-content pl-3 text-[13px]" data-verdict={v.layout}>
          <strong>
            {v.layout}, {new Date(v.made_at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}
          </strong>
          <p className="whitespace-pre-wrap">{v.reason}</p>
        </blockquote>
      ))}
    </section>
  );
}
