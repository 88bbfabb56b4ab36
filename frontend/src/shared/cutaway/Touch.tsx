import { createContext, type ReactNode, useContext } from "react";

/** What can be chosen in the drawing beside a mount. */
export type Thing = "cooler" | "card" | "panels" | "inside" | "groups" | "notes";

type Hands = { thing: Thing | null; onThing: (thing: Thing) => void };

/** Of a drawing whose things can be chosen; without it they are only seen. */
export const HandsContext = createContext<Hands | null>(null);

/** A thing of the drawing that can be chosen by a click or the keyboard; its settings then stand in the tray under the drawing. */
export function Touch({ thing, words, children }: { thing: Thing; words: string; children: ReactNode }) {
  const hands = useContext(HandsContext);
  if (!hands) return <g>{children}</g>;
  const on = hands.thing === thing;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${words}: its settings`}
      aria-pressed={on}
      data-thing={thing}
      className={`cursor-pointer outline-offset-2 ${on ? "outline-2 outline-accent" : ""}`}
      onClick={() => hands.onThing(thing)}
      onKeyDown={(e) => {
        if (e.key !== " " && e.key !== "Enter") return;
        e.preventDefault();
        e.stopPropagation();
        hands.onThing(thing);
      }}
    >
      {children}
    </g>
  );
}
