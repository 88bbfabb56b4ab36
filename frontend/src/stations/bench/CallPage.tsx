import { useParams } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { useLive } from "@/shared/api/live";
import { CAUTIONS, channelWords } from "@/shared/words/words";
import { sound } from "./live/cue";
import { headOf, useSuiteSound } from "./live/SuiteBar";
import { clock } from "./live/words";

const LOST_MS = 15_000;

/** One page to be left open where its person is: what the bench does, in words that are read across a room, and a call by sound. */
export function CallPage() {
  const { benchId } = useParams({ strict: false }) as { benchId: string };
  const live = useLive(Number(benchId) || null);
  const [awake, setAwake] = useState(false);
  const own = live.data?.suite ?? null;
  const alarms = live.data?.run?.alarms ?? [];
  const lost = live.isError && Date.now() - live.dataUpdatedAt > LOST_MS;
  const silent = own !== null && own.state !== "done" && (live.data?.bench.silent ?? false);
  useSuiteSound(own);
  useAlarmSound(alarms.length, lost || silent);
  const step = live.data?.step;
  const hand = own?.state === "hand" || own?.state === "stopped" || lost || silent || alarms.length > 0;
  const head = lost
    ? "No answer from Oventa"
    : own
      ? headOf(own, silent)
      : live.data?.run
        ? "A run is live"
        : "Nothing runs here";
  const words = lost
    ? "Look at the machine: whether its load still runs is not known."
    : silent
      ? "The machine is silent: whether its load still runs is not known. Look at it."
      : (own?.words ?? step?.action ?? "");
  return (
    <main
      className={`flex min-h-screen flex-col gap-6 p-6 ${hand ? "bg-base-content text-base-100" : "bg-base-100"}`}
      data-call={lost ? "lost" : (own?.state ?? "none")}
    >
      <p className="text-body">
        {live.data?.bench.name ?? "Bench"}
        {own && own.state !== "done" && ` · ${own.to_go} ${own.to_go === 1 ? "run" : "runs"} left`}
      </p>
      <h1 className="wide text-huge leading-tight font-semibold" role="status">
        {head}
      </h1>
      <p className="max-w-prose text-title">{words}</p>
      {own && own.to_do.length > 0 && (
        <ol className="max-w-prose list-decimal pl-6 text-title">
          {own.to_do.map((x) => (
            <li key={x}>{x}</li>
          ))}
        </ol>
      )}
      {own && own.to_do.length > 0 && <p className="max-w-prose border border-current p-3 text-body">{CAUTIONS.fan}</p>}
      {alarms.map((a) => (
        <p key={`${a.channel} ${a.at_s}`} role="alert" className="max-w-prose border border-current p-3 text-title">
          {channelWords(a.channel)}: {a.words}
        </p>
      ))}
      {step?.countdown_s !== null && step?.countdown_s !== undefined && !hand && (
        <p className="font-mono text-huge">{step.wait || clock(step.countdown_s)}</p>
      )}
      <div className="mt-auto flex flex-wrap items-center gap-4">
        {awake ? (
          <p className="text-small">It calls by sound, and keeps this screen awake where the browser allows it.</p>
        ) : (
          <button
            type="button"
            className="min-h-14 cursor-pointer rounded-box border border-current px-5 text-title font-semibold"
            onClick={() => {
              sound("act");
              void keepAwake();
              setAwake(true);
            }}
          >
            Call me by sound
          </button>
        )}
      </div>
    </main>
  );
}

/** An alarm, or a connection that is lost, is heard too. */
function useAlarmSound(alarms: number, lost: boolean) {
  useEffect(() => {
    if (alarms > 0 || lost) sound("alarm");
  }, [alarms, lost]);
}

async function keepAwake() {
  try {
    await navigator.wakeLock?.request("screen");
  } catch {
    // a browser that will not: the page says what it does, the sound still comes
  }
}
