import { saidOfChoice, TRAITS } from "../words/words";

export function Traits({ traits }: { traits: string[] }) {
  if (!traits.length) return null;
  return (
    <span className="flex flex-wrap gap-1.5 text-fine" data-traits={traits.join()}>
      {traits.map((t) => (
        <span key={t} className="rounded-full border-2 border-warning px-2 font-semibold">
          less general: {saidOfChoice(TRAITS, t)}
        </span>
      ))}
    </span>
  );
}
