import type { Schemas } from "@/shared/api/client";
import type { Verdict } from "@/shared/api/hooks";
import { useLearned } from "@/shared/api/propose";
import { useJob } from "@/shared/job/store";
import { Head, Working } from "@/shared/ui/bits";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { channelWords, unitKind } from "@/shared/words/words";

export function Forecasts({ v }: { v: Verdict }) {
  const units = useUnits();
  const surprises = v.scores.rows.filter((r) => r.surprise).length;
  return (
    <section className="flex flex-col gap-1" data-surprises={surprises}>
      <Head remark={surprises ? `${surprises} surprise${surprises === 1 ? "" : "s"}` : "no surprises"}>
        Forecast against measured
      </Head>
      {v.scores.guess_says && (
        <p className="text-body" data-guess={v.scores.guess ?? ""}>
          {v.scores.guess_says} {v.scores.guess_words && <q>{v.scores.guess_words}</q>}
        </p>
      )}
      {v.scores.guess_errors?.map((g) => (
        <p key={g.channel} className="text-small" data-guess-error={g.channel}>
          {`Guessed for the ${channelWords(g.channel)} of ${g.layout} against ${g.over}: ${units.signed("difference", g.guessed_k, 1)}, `}
          {`measured ${units.signed("difference", g.measured_k, 1)} ${units.band("difference", g.expanded_k, 1)} ${units.unit("difference")}. `}
          {`The guess is off by ${units.signed("difference", g.off_k, 1)} ${units.unit("difference")}.`}
        </p>
      ))}
      <Scored rows={v.scores.rows} forecast="forecast" />
      <FromTheOthers v={v} />
      {v.checked.length > 0 && (
        <>
          <Head remark="of the original">Check numbers</Head>
          <ul className="text-small">
            {v.checked.map((c) => (
              <li
                key={`${c.layout}${c.channel}`}
                className="border-b hairline py-0.5"
                data-check={`${c.layout} ${c.channel}`}
                data-within={String(c.within)}
              >
                {c.layout}, {channelWords(c.channel)}: original {units.text(unitKind(c.channel), c.expected, 1)}{" "}
                {units.band(unitKind(c.channel), c.expected_band, 1)};{" "}
                {c.value === null
                  ? "not run yet"
                  : `here ${units.text(unitKind(c.channel), c.value, 1)} ${units.band(unitKind(c.channel), c.band, 1)}, ${c.within ? "they agree" : "they do not agree"}`}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

const PARTS: Record<string, string> = { cpu: "cpu_package_c", card: "card_core_c" };

/** Each layout against what the runs of all others had led to expect of it: here a surprise can show. */
function FromTheOthers({ v }: { v: Verdict }) {
  const { id, document } = useJob();
  const { data, error } = useLearned(id, document, v.load as Schemas["LearnedIn"]["load"], true);
  const rows = data?.expected?.map((r) => ({ ...r, channel: PARTS[r.channel] ?? r.channel }));
  const surprises = num(rows?.filter((r) => r.surprise).length);
  return (
    <div className="mt-3 flex flex-col gap-1" data-expected={rows ? surprises : "waiting"}>
      <Head
        level={3}
        remark={!rows?.length ? "" : surprises ? `${surprises} surprise${surprises === 1 ? "" : "s"}` : "no surprises"}
      >
        What the other layouts' runs had led to expect
      </Head>
      {error ? (
        <p role="alert" className="text-small">
          No answer: {error.message}
        </p>
      ) : !rows ? (
        <Working words="The runs are being held against each other …" />
      ) : rows.length ? (
        <>
          <Scored rows={rows} forecast="expected" />
          <p className="text-fine text-faint">What all runs of a sensor share has cancelled here.</p>
        </>
      ) : (
        <p className="text-small">With runs of a second layout each is held against what the other would lead to expect.</p>
      )}
    </div>
  );
}

function Scored({ rows, forecast }: { rows: Schemas["Surprise"][]; forecast: string }) {
  const units = useUnits();
  return (
    <table className="text-small">
      <thead>
        <tr className="text-left text-faint">
          <th className="font-normal">layout</th>
          <th className="font-normal">what</th>
          <th className="text-right font-normal">{forecast}</th>
          <th className="text-right font-normal">measured</th>
          <th className="text-right font-normal">measured less {forecast}</th>
          <th className="pl-4 font-normal" />
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => {
          const kind = unitKind(r.channel);
          return (
            <tr
              key={`${r.layout}${r.channel}`}
              className="border-t hairline"
              data-score={`${forecast === "forecast" ? "" : `${forecast} `}${r.layout} ${r.channel}`}
            >
              <td className="py-0.5 font-semibold">{r.layout}</td>
              <td>
                {channelWords(r.channel)}, {kind === "level" ? "dBA" : units.unit(kind)}
              </td>
              <td className="text-right font-mono">
                {units.text(kind, r.forecast_k, 1)} {units.band(kind, r.forecast_band_k, 1)}
              </td>
              <td className="pl-3 text-right font-mono">
                {units.text(kind, r.measured_k, 1)} {units.band(kind, r.measured_band_k, 1)}
              </td>
              <td className="pl-3 text-right font-mono">{units.signed(kind, r.residual_k, 1)}</td>
              <td className="pl-4">{r.surprise ? `surprise: ${Math.abs(r.z).toFixed(1)} standard uncertainties` : ""}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
