import { useJob } from "@/shared/job/store";
import { Head, Select } from "@/shared/ui/bits";

/** What the person expects, written before the first run. */
export function Guess() {
  const { document, edit } = useJob();
  const plan = document.plan;
  if (!plan) return null;
  return (
    <section className="flex flex-col gap-2">
      <Head remark="before the first run">Your own guess</Head>
      <Select
        label="The best will be"
        value={plan.guess?.best ?? ""}
        empty="not said"
        choices={(document.layouts ?? []).map((x) => ({ value: x.id, words: `${x.id}, ${x.name ?? ""}` }))}
        onChange={(best) =>
          edit("guess", (d) => {
            if (d.plan) d.plan.guess = { ...(d.plan.guess ?? {}), best: best || null };
          })
        }
      />
      <label className="flex flex-col gap-0.5 text-[12.5px] text-faint">
        Why, and by how much
        <textarea
          className="textarea textarea-sm w-full text-base-content"
          rows={2}
          defaultValue={plan.guess?.words ?? ""}
          key={plan.guess?.words ?? ""}
          onBlur={(e) =>
            e.target.value !== (plan.guess?.words ?? "") &&
            edit("guess", (d) => {
              if (d.plan) d.plan.guess = { ...(d.plan.guess ?? {}), words: e.target.value };
            })
          }
        />
      </label>
    </section>
  );
}
