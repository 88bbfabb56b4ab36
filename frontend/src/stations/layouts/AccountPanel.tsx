import type { Schemas } from "@/shared/api/client";
import { useAccount } from "@/shared/api/hooks";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head } from "@/shared/ui/bits";
import { Said } from "@/shared/units/Said";
import { type Kind, useUnits } from "@/shared/units/units";
import { has } from "@/shared/words/lists";

export type Figure = Schemas["AccountIn"]["figure"];
const KINDS: Record<string, Kind> = {
  K: "difference",
  "± K": "difference",
  "m3/h": "flow",
  Pa: "pressure",
  W: "power",
  "%": "share",
  dBA: "level",
};

/** How a figure came about: every step with its formula and source, in the order of cause. */
export function AccountPanel({ figure, layoutId, onClose }: { figure: Figure; layoutId: string; onClose: () => void }) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const say = useWords();
  const answer = useAccount({ document, layout: layoutId, conditions }, figure);
  return (
    <section data-account={figure} aria-live="polite">
      <Head
        remark={
          <Button small onClick={onClose}>
            back
          </Button>
        }
      >
        {answer.data?.title ?? "How this figure came about"}
      </Head>
      {answer.error && <p role="alert">No account: {answer.error.message}</p>}
      <ol className="mt-1">
        {answer.data?.steps.map((step) => (
          <li key={step.what} className="border-b hairline py-2 text-small leading-snug">
            <p className="flex items-baseline justify-between gap-3">
              <span className="font-semibold">
                <Said text={step.what} />
              </span>
              <span className="shrink-0 font-mono">{say(step.value, step.unit)}</span>
            </p>
            {has(step.parts) && (
              <ul className="mt-0.5">
                {step.parts?.map((part) => (
                  <li key={part.what} className="flex justify-between gap-3 pl-3">
                    <span>
                      <Said text={part.what} />
                    </span>
                    <span className="shrink-0 font-mono">{say(part.value, part.unit)}</span>
                  </li>
                ))}
              </ul>
            )}
            {step.formula && <p className="text-faint">{step.formula}</p>}
            {step.source && <p className="text-fine text-faint italic">{step.source}</p>}
          </li>
        ))}
      </ol>
    </section>
  );
}

/** A figure of an account in the units at hand. */
function useWords() {
  const units = useUnits();
  return (value: number, unit: string) => {
    const per = unit.endsWith(" per sigma");
    const kind = KINDS[per ? "K" : unit];
    const sign = unit.startsWith("±") || per ? "±" : "";
    if (kind) return `${sign}${units.withUnit(kind, value, kind === "difference" || kind === "level" ? 1 : undefined)}`;
    return `${sign}${value.toFixed(2)} ${unit.replace("± ", "")}`;
  };
}
