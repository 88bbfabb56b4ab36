import { useEffect, useRef } from "react";
import { type Live, useStopSuite, useSuiteBuilt } from "@/shared/api/live";
import { CAUTIONS, SUITES } from "@/shared/words/words";
import { sound } from "./cue";

export type Suite = NonNullable<Live["suite"]>;

const TONES: Partial<Record<Suite["state"], string>> = { hand: "act", done: "end", stopped: "alarm" };

/** What a suite does, in one line; a bench that is silent waits for its readings. */
export const headOf = (suite: Suite, silent: boolean) => SUITES[silent ? "silent" : suite.state];

/** Sounds when a hand is called for, when all is done and when it stopped; nothing on the first look. */
export function useSuiteSound(suite: Suite | null | undefined) {
  const last = useRef<string | null>(null);
  const now = suite ? `${suite.state} ${suite.state === "hand" ? suite.words : ""}` : "";
  useEffect(() => {
    if (last.current !== null && now !== last.current && suite) {
      const tone = TONES[suite.state];
      if (tone) sound(tone);
    }
    last.current = now;
  }, [now, suite]);
}

/** What a plan that runs by itself is doing, what a hand is wanted for, and the way out of it. */
export function SuiteBar({ live }: { live: Live }) {
  const built = useSuiteBuilt();
  const stop = useStopSuite();
  const own = live.suite;
  useSuiteSound(own);
  if (!own || own.state === "done") return null;
  const silent = live.bench.silent && own.state !== "stopped";
  const hand = own.state === "hand" || silent;
  const builds = own.state === "hand" && !live.run;
  return (
    <section
      aria-label="The plan runs by itself"
      data-suite={own.state}
      className={`flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-base-content px-4 py-2 ${hand ? "bg-base-content text-base-100" : "bg-paper"}`}
    >
      <strong className="wide text-title">{headOf(own, silent)}</strong>
      <span role="status" className="min-w-60 flex-1 text-body">
        {silent ? "It goes on when they do." : own.words}{" "}
        {own.state !== "stopped" && `${own.to_go} ${own.to_go === 1 ? "run is" : "runs are"} left.`}
        {own.to_do.length > 0 && (
          <span className="block text-small">
            {own.to_do.join("; ")}. {CAUTIONS.fan}
          </span>
        )}
      </span>
      {builds && (
        <button
          type="button"
          className="min-h-10 cursor-pointer rounded-box border border-current px-4 text-body font-semibold"
          disabled={built.isPending}
          onClick={() => built.mutate(live.bench.id)}
        >
          It stands built: go on
        </button>
      )}
      <a className="text-small underline" href={`/call/${live.bench.id}`} target="_blank" rel="noreferrer">
        page that calls you
      </a>
      {own.state !== "stopped" && (
        <button type="button" className="cursor-pointer text-small underline" onClick={() => stop.mutate(live.bench.id)}>
          go on by hand
        </button>
      )}
      {(built.error ?? stop.error) && (
        <p role="alert" className="w-full text-small">
          {(built.error ?? stop.error)?.message}
        </p>
      )}
    </section>
  );
}
