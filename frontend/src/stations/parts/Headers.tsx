import { Rows } from "@/shared/job/Rows";
import { Caution } from "@/shared/ui/Caution";
import { CAUTIONS, CHOICES } from "@/shared/words/words";

const KINDS = CHOICES["header.kind"];
const MODES = [
  { value: "4pin", words: "4-pin" },
  { value: "3pin", words: "3-pin" },
];

/** The headers of a board: what each carries, which plugs it can slow, and where it is. */
export function Headers({ at }: { at: number }) {
  const length = (name: string, words: string) => ({
    name,
    words,
    kind: "length" as const,
    low: 0,
    high: 1500,
    optional: "not known",
  });
  return (
    <div className="flex flex-col gap-2">
      <Rows
        path={["parts", "boards", at, "headers"]}
        one="a header"
        stem="fan "
        fresh={() => ({ kind: "fan", limit_a: 1, modes: ["3pin", "4pin"] })}
        fields={[
          { name: "kind", words: "For", choices: KINDS },
          { name: "limit_a", words: "Carries, A", optional: "not known" },
          { name: "modes", words: "can slow", as: "ticks", values: MODES },
          length("at_mm.x", "From the front"),
          length("at_mm.z", "Over the floor"),
        ]}
      />
      <Caution>{CAUTIONS.lead}</Caution>
    </div>
  );
}
