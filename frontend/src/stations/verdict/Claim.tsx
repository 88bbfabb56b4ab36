import type { Pair } from "@/shared/api/client";
import { layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { channelWords, unitKind } from "@/shared/ui/channels";
import { useUnits } from "@/shared/units/units";

export const WORDS: Record<Pair["word"], string> = {
  better: "better",
  worse: "worse",
  no_difference: "no difference",
  cannot_tell: "cannot tell",
};

/** The same pair said of `chosen`: its difference to the other, and the word turned round where needed. */
export function saidOf(pair: Pair, chosen: string) {
  const turned = pair.a === chosen;
  const sign = turned ? -1 : 1;
  const word = turned
    ? (({ better: "worse", worse: "better" } as const)[pair.word as "better" | "worse"] ?? pair.word)
    : pair.word;
  return {
    other: turned ? pair.b : pair.a,
    difference: pair.difference_k === null ? null : sign * pair.difference_k,
    word: word as Pair["word"],
  };
}

/** What the runs show of the chosen layout, in words; its price is stated with it. */
export function Claim({ pairs, chosen, decided }: { pairs: Pair[]; chosen: string; decided: string | null }) {
  const { document } = useJob();
  const units = useUnits();
  const own = pairs.filter((p) => p.a === chosen || p.b === chosen);
  const name = layoutOf(document, chosen)?.name;
  const sentence = (word: Pair["word"]) =>
    own
      .map((p) => ({ p, said: saidOf(p, chosen) }))
      .filter(({ said }) => said.word === word)
      .map(({ p, said }) => {
        const size =
          said.difference === null
            ? ""
            : ` (${units.signed(unitKind(p.channel), said.difference, 1)} ±${units.text(unitKind(p.channel), p.expanded_uncertainty_k ?? 0, 1)} ${unitKind(p.channel) === "level" ? "dB" : units.unit(unitKind(p.channel))})`;
        return `${channelWords(p.channel)} against ${said.other}${size}`;
      });
  const better = sentence("better");
  const worse = sentence("worse");
  const same = sentence("no_difference");
  const unsure = sentence("cannot_tell");
  const head =
    !better.length && !worse.length
      ? "Nothing can be told apart"
      : better.length && !worse.length
        ? "better where it differs"
        : better.length
          ? "better, at a price"
          : "worse where it differs";
  return (
    <header className="flex flex-col gap-2" data-claim={chosen}>
      <h1 className="text-[24px] leading-tight">
        {chosen}, {name}: {head}
      </h1>
      {decided && <p className="text-[13.5px] font-semibold">Decided: {decided}.</p>}
      {better.length > 0 && (
        <p>
          <strong>Better:</strong> {better.join("; ")}.
        </p>
      )}
      {worse.length > 0 && (
        <p>
          <strong>Its price:</strong> {worse.join("; ")}.
        </p>
      )}
      {same.length > 0 && (
        <p>
          <strong>No difference:</strong> {same.join("; ")}.
        </p>
      )}
      {unsure.length > 0 && (
        <p className="text-faint">
          <strong>Cannot tell:</strong> {unsure.join("; ")}. More repeats or longer runs would tell.
        </p>
      )}
      <p className="text-[13px] text-faint">
        Holds for this case, these parts, this load and rooms like those of the runs. Choose another tag in the rack to argue for
        it.
      </p>
    </header>
  );
}
