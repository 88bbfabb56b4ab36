/** What lowers a run's generality; said on every chart that shows it. */
export const TRAITS = [
  { value: "sponsored", words: "a part was given for the test" },
  { value: "delidded", words: "processor without its lid" },
  { value: "overclocked", words: "far over its usual clock" },
  { value: "improvised", words: "an improvised part" },
  { value: "prototype", words: "not a part on sale" },
];
export const traitWords = (value: string) => TRAITS.find((t) => t.value === value)?.words ?? value;

export function Traits({ traits }: { traits: string[] }) {
  if (!traits.length) return null;
  return (
    <span className="flex flex-wrap gap-1.5 text-[12.5px]" data-traits={traits.join()}>
      {traits.map((t) => (
        <span key={t} className="rounded-full border-2 border-warning px-2 font-semibold">
          less general: {traitWords(t)}
        </span>
      ))}
    </span>
  );
}
