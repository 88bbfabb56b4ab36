import { useJob } from "@/shared/job/store";
import { Head, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { within } from "@/shared/words/words";

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
      {plan.guess?.best && (
        <div className="flex flex-wrap items-end gap-3">
          <Select
            label="Compared with"
            value={plan.guess.over ?? plan.control ?? ""}
            choices={(document.layouts ?? [])
              .filter((x) => x.id !== plan.guess?.best)
              .map((x) => ({ value: x.id, words: `${x.id}, ${x.name ?? ""}` }))}
            empty="not said"
            onChange={(over) =>
              edit("guess", (d) => {
                if (d.plan) d.plan.guess = { ...(d.plan.guess ?? {}), over: over || null };
              })
            }
          />
          {(["cpu_k", "card_k"] as const).map((name) => (
            <NumberField
              key={name}
              label={`its ${name === "cpu_k" ? "processor" : "card"} differs by`}
              kind="difference"
              digits={1}
              {...within("plan.guess.cpu_k")}
              optional="not said"
              value={plan.guess?.[name] ?? null}
              onCommit={(v) =>
                edit("guess", (d) => {
                  if (d.plan) d.plan.guess = { ...(d.plan.guess ?? {}), [name]: v };
                })
              }
            />
          ))}
          <span className="pb-1.5 text-fine text-faint">A minus sign means cooler.</span>
        </div>
      )}
      <label className="flex flex-col gap-0.5 text-fine text-faint">
        Why
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
