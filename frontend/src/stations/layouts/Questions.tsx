import { Segments } from "@/shared/ui/bits";

/** What a person wants to know of a layout, and the views that answer it. */
const QUESTIONS = [
  {
    words: "heat, sound",
    asks: "How warm and how loud",
    views: [
      { value: "settled", words: "settled" },
      { value: "time", words: "over time" },
      { value: "quiet", words: "speeds" },
      { value: "learned", words: "learned" },
    ],
  },
  { words: "air", asks: "Where the air goes", views: [{ value: "air", words: "smoke" }] },
  {
    words: "build",
    asks: "Does it go together",
    views: [
      { value: "fit", words: "fit" },
      { value: "leads", words: "leads" },
      { value: "loop", words: "loop" },
    ],
  },
  { words: "as found", asks: "The machine as it stands", views: [{ value: "found", words: "as found" }] },
  {
    words: "what next",
    asks: "Later and better",
    views: [
      { value: "find", words: "find" },
      { value: "worth", words: "changes" },
      { value: "later", words: "later" },
    ],
  },
] as const;

type Question = (typeof QUESTIONS)[number];
export type View = Question["views"][number]["value"];
export const VIEWS: readonly View[] = QUESTIONS.flatMap((q) => q.views.map((v) => v.value));
export const TAUGHT: readonly View[] = ["settled", "time", "quiet", "worth"]; // what rests on the runs where there are any; all else on the sheets
export const DRY: readonly View[] = ["fit", "leads", "found", "find", "learned"]; // what asks for load and room by itself, or for none

/** Two levels, not more: the question, and where it has several answers, which of them. */
export function Questions({ view, onView }: { view: View; onView: (view: View) => void }) {
  const asked = QUESTIONS.find((q) => q.views.some((v) => v.value === view)) ?? QUESTIONS[0];
  return (
    <div className="flex flex-col gap-2">
      <nav aria-label="What you want to know" className="-mx-1 flex flex-wrap justify-between gap-x-1 border-b hairline">
        {QUESTIONS.map((q) => (
          <button
            key={q.words}
            type="button"
            title={q.asks}
            aria-label={`${q.words}: ${q.asks}`}
            aria-current={q === asked ? "true" : undefined}
            onClick={() => q !== asked && onView(q.views[0].value)}
            className={`-mb-px cursor-pointer border-b-2 px-1 pb-1 text-small ${
              q === asked ? "border-base-content font-semibold" : "border-transparent text-faint hover:text-base-content"
            }`}
          >
            {q.words}
          </button>
        ))}
      </nav>
      {asked.views.length > 1 && <Segments<View> label={asked.asks} value={view} onChange={onView} choices={[...asked.views]} />}
    </div>
  );
}
