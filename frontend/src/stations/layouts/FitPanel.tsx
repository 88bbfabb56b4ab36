import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { useFit } from "@/shared/api/hooks";
import { CaseLength } from "@/shared/job/CaseLength";
import { layoutOf } from "@/shared/job/edits";
import { DocNumber } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Head, Working } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { Said } from "@/shared/units/Said";
import { useUnits } from "@/shared/units/units";
import { count, has } from "@/shared/words/lists";
import { CAUTIONS, FIT } from "@/shared/words/words";

const WORDS = FIT;
const TONE = { fits: "", touches: "text-warning", does_not_fit: "text-error" } as const;
type Verdict = keyof typeof WORDS;

/** In what order the parts can go in, with the reason where one must come first. */
function Order({ assembly }: { assembly: Schemas["AssemblyOut"] }) {
  if (assembly.ring.length)
    return (
      <div className="rounded-md border border-error px-2 py-1 text-small" data-assembly="none">
        No order is possible:{" "}
        {assembly.ring.map((d) => (
          <span key={d.first + d.second} className="block">
            {d.first} before {d.second}: <Said text={d.why} />.
          </span>
        ))}
      </div>
    );
  return (
    <details className="text-small" data-assembly={assembly.order.length}>
      <summary className="cursor-pointer">An order in which they go in</summary>
      <ol className="mt-1 list-inside list-decimal">
        {assembly.order.map((part) => (
          <li key={part}>
            {part}
            {assembly.demands
              .filter((d) => d.first === part)
              .map((d) => (
                <span key={d.second} className="block pl-5 text-fine text-faint">
                  before the {d.second}: <Said text={d.why} />
                </span>
              ))}
          </li>
        ))}
      </ol>
    </details>
  );
}

/** What the ledger could not check for want of a figure, asked for here where it first matters. */
function Wanted({ wanted }: { wanted: Schemas["WantedOut"][] }) {
  const { document } = useJob();
  return (
    <div className="flex flex-col gap-2 rounded-md border border-dashed hairline p-2 text-small" data-wanted={wanted.length}>
      <strong>Not checked yet: measure it now?</strong>
      {wanted.map(({ cooler, path, words, low_mm: low, high_mm: high, note }) => (
        <div key={path}>
          {cooler ? (
            <DocNumber
              label={words}
              path={["parts", "coolers", (document.parts?.coolers ?? []).findIndex((c) => c.id === cooler), path]}
              kind="length"
              low={low}
              high={high}
              optional="not known"
            />
          ) : (
            <CaseLength
              label={words}
              path={["case", ...path.split(".")]}
              name={path}
              low={low}
              high={high}
              optional="not known"
            />
          )}
          {note && <span className="text-fine text-faint">Until then {note}.</span>}
        </div>
      ))}
      <span className="text-fine text-faint">Until then it is neither passed nor failed.</span>
    </div>
  );
}

/** The line under the pointer, for the drawing. */
export type MarkedLine = { mount: string; needed_mm: number; there_mm: number; code: string };

/** The clearance ledger: every constraint with what is needed, what is there and what is left, tightest first. */
export function FitPanel({ layout, onMark }: { layout: LayoutDoc; onMark: (line: MarkedLine | null) => void }) {
  const { document, edit } = useJob();
  const { conditions } = useWorkbench();
  const units = useUnits();
  const { data, error } = useFit({ document, layout: layout.id, conditions });
  const mm = (v: number) => units.text("length", v, units.system === "metric" ? 0 : 2);
  if (!data && !error)
    return (
      <section data-fit="waiting" className="flex flex-col gap-3">
        <Head>Room to spare</Head>
        <Working />
      </section>
    );
  const bad = count(data?.lines.filter((x) => x.verdict !== "fits"));
  return (
    <section data-fit={data?.layout ?? "waiting"} className="flex flex-col gap-3">
      <Head remark={bad ? `${bad} to look at` : "all fits"}>Room to spare</Head>
      {error && <p role="alert">No ledger: {error.message}</p>}
      <table className="w-full text-small">
        <thead className="text-left text-faint">
          <tr>
            <th className="font-normal">what</th>
            <th className="text-right font-normal">needs of {units.unit("length")}</th>
            <th className="pl-3 text-right font-normal">spare {units.unit("length")}</th>
          </tr>
        </thead>
        <tbody>
          {data?.lines.map((x) => {
            const verdict = x.verdict as Verdict;
            return (
              <tr
                key={x.code + x.what}
                className="border-t hairline align-top"
                data-line={x.code}
                data-verdict={verdict}
                onPointerEnter={() =>
                  onMark(
                    x.mounts[0] ? { mount: x.mounts[0], needed_mm: x.required_mm, there_mm: x.available_mm, code: x.code } : null,
                  )
                }
                onPointerLeave={() => onMark(null)}
              >
                <td className="py-1 pr-2 leading-snug">
                  <Said text={x.what} />
                  <span className="block text-fine text-faint">{x.parts}</span>
                </td>
                <td className="py-1 text-right font-mono whitespace-nowrap">
                  {mm(x.required_mm)} <span className="text-faint">of {mm(x.available_mm)}</span>
                </td>
                <td className={`py-1 pl-3 text-right font-mono whitespace-nowrap ${TONE[verdict]}`}>
                  <span className="font-semibold">{units.signed("length", x.spare_mm, units.system === "metric" ? 0 : 2)}</span>
                  <span className="block text-fine">
                    {verdict === "fits"
                      ? `worst ${units.signed("length", x.worst_mm, units.system === "metric" ? 0 : 2)}`
                      : WORDS[verdict]}
                  </span>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {data?.exclusions.map((x) => (
        <p key={x.chosen + x.ruled_out} className="rounded-md border border-error px-2 py-1 text-small" data-exclusion="yes">
          {x.chosen} rules out {x.ruled_out}: <Said text={x.why} />
        </p>
      ))}
      {has(data?.losses) && (
        <div className="text-small" data-losses={data?.losses.length}>
          <strong>Lost with this layout</strong>
          <ul>
            {data?.losses.map((x) => (
              <li key={x.what + x.mount} className={x.occupied ? "text-warning" : ""}>
                <Said text={x.what} /> ({x.mount.toUpperCase()}){x.occupied ? ", which is in use" : ""}
              </li>
            ))}
          </ul>
        </div>
      )}
      {data && <Order assembly={data.assembly} />}
      <label className="flex items-center gap-2 text-small" data-ready={data?.fit_to_build ? "may" : "not"}>
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          disabled={!data?.fit_to_build && !layout.ready}
          checked={Boolean(layout.ready && data?.fit_to_build)}
          onChange={(e) =>
            edit(`${layout.id} ready to build`, (d) => {
              const own = layoutOf(d, layout.id);
              if (own) own.ready = e.target.checked;
            })
          }
        />
        {data?.fit_to_build ? "ready to be built" : "not ready: something does not fit, and nobody has accepted it with a reason"}
      </label>
      {data && data.wanted.length > 0 && <Wanted wanted={data.wanted} />}
      <p className="text-fine text-faint">Worst: every length at the bad end of its millimetre. Measure before you buy.</p>
      {(layout.radiator || layout.loops?.length) && <Caution>{CAUTIONS.coolant}</Caution>}
    </section>
  );
}
