import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Draft, type Live, useDiscardRun, useEndRun, useLiveTrace, useSetUp, useStartRun } from "@/shared/api/live";
import { Trace } from "@/shared/charts/Trace";
import { useKeys } from "@/shared/keys/keys";
import { Button } from "@/shared/ui/bits";
import { Term } from "@/shared/ui/Term";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { channelWords, PHASES, said, usual } from "@/shared/words/words";
import { Clipboard } from "./Clipboard";
import { useCue } from "./cue";
import { shadesOf } from "./Marks";
import { Prepare } from "./Prepare";
import { Side } from "./Side";
import { SoakRows } from "./Soak";
import { clock } from "./words";

type Props = { live: Live; draft: Draft; lost: boolean; onDone: (runId: number) => void };

/** One run on a bench, from ready to averaged: phase, countdown, soak, large figures, one large action. */
export function LiveBench({ live, draft, lost, onDone }: Props) {
  const [face, setFace] = useFace();
  const step = live.step;
  const cue = useCue(step?.cue ?? "none", draft.alarms.length);
  const act = useActions(live, draft, onDone);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => box.current?.focus({ preventScroll: true }), []);
  useKeys([
    {
      key: " ",
      words: "the large action",
      letter: true,
      place: "bench",
      shown: "Space",
      run: () => !act.main?.disabled && act.main?.run(),
    },
    { key: "n", words: "note", letter: true, place: "bench", run: () => setFace("clipboard") },
    { key: "g", words: "gauge", letter: true, place: "bench", run: () => setFace("gauge") },
  ]);
  const before = !draft.started;
  const clockWords = step?.countdown_s === null || step?.countdown_s === undefined ? null : clock(step.countdown_s);
  return (
    <div
      ref={box}
      tabIndex={-1}
      data-keys="bench"
      data-phase={step?.phase ?? ""}
      style={{ outline: "none" }}
      className="flex min-h-0 flex-1 max-lg:flex-col"
    >
      <div className="flex min-w-0 flex-1 flex-col gap-2 overflow-y-auto px-5 py-3">
        <header className="flex items-start justify-between gap-4">
          <div className="min-w-0">
            <h1 className="flex flex-wrap items-baseline gap-x-4 text-huge leading-tight">
              {step?.phase === "soak" ? <Term t="soak">{PHASES.soak}</Term> : said(PHASES, step?.phase ?? "prepare")}
              <span className="text-lead font-normal" style={{ fontStretch: "100%" }}>
                layout {draft.layout}, {draft.load_words}, {draft.protocol.name || draft.protocol.id}
                {draft.protocol.version && draft.protocol.version > 1 ? ` version ${draft.protocol.version}` : ""}
              </span>
            </h1>
            <p className="text-lead" role="status" aria-live="polite">
              {step?.action}
            </p>
          </div>
          <div className="text-right font-mono leading-none">
            <div className="text-huge font-semibold" data-clock="run">
              {live.elapsed_s !== null && live.elapsed_s !== undefined && live.elapsed_s > 0 ? clock(live.elapsed_s) : "0:00"}
            </div>
            {(step?.wait || clockWords) && (
              <div className="mt-1 text-body text-faint" data-wait>
                {!step?.wait && "in "}
                <span className="font-semibold text-base-content">{step?.wait || clockWords}</span>
              </div>
            )}
            {step?.wait_from && (
              <div className="mt-1 font-sans text-small text-faint" data-wait-from>
                {step.wait_from}
              </div>
            )}
          </div>
        </header>
        {lost && (
          <p role="alert" className="rounded-md border-2 border-warning p-2 text-body">
            The connection is lost. What is shown is the last state; senders keep their readings until they are taken. It goes on
            by itself.
          </p>
        )}
        {!lost && live.bench.silent && !before && (
          <p role="alert" className="rounded-md border-2 border-warning p-2 text-body">
            No readings come. Look at the logger and its lead; what it keeps is sent later.
          </p>
        )}
        {draft.alarms.at(-1) && (
          <p role="alert" className="rounded-md border-[3px] border-error p-2 text-title">
            <strong className="text-error">Alarm. </strong>
            {channelWords(draft.alarms.at(-1)?.channel ?? "")}, {draft.alarms.at(-1)?.words}
          </p>
        )}
        {face === "clipboard" ? (
          <Clipboard run={draft} />
        ) : before ? (
          <Prepare live={live} draft={draft} />
        ) : (
          <>
            <SoakRows live={live} />
            <LiveTrace live={live} draft={draft} />
          </>
        )}
        <div className="sticky bottom-0 mt-auto flex flex-wrap items-stretch gap-3 bg-base-100 py-2">
          {act.main && (
            <button
              type="button"
              aria-disabled={act.main.disabled}
              onClick={() => !act.main?.disabled && act.main?.run()}
              className="min-h-16 min-w-64 flex-1 cursor-pointer rounded-box bg-base-content px-5 py-2 text-left text-base-100 aria-disabled:cursor-default aria-disabled:opacity-50"
              data-action="main"
            >
              <span className="block text-title font-semibold">{act.main.words}</span>
              <span className="block text-body opacity-85">{act.main.remark}</span>
            </button>
          )}
          {act.second && (
            <button
              type="button"
              onClick={act.second.run}
              className="min-h-16 cursor-pointer rounded-box border border-base-content bg-paper px-5 py-2 text-left"
              data-action="second"
            >
              <span className="block text-title font-semibold">{act.second.words}</span>
              <span className="block text-small text-faint">{act.second.remark}</span>
            </button>
          )}
          <button
            type="button"
            onClick={() => setFace(face === "clipboard" ? "gauge" : "clipboard")}
            className="min-h-16 cursor-pointer rounded-box border border-base-content bg-paper px-5 py-2 text-left"
          >
            <span className="block text-title font-semibold">{face === "clipboard" ? "Gauge" : "Clipboard"}</span>
            <span className="block text-small text-faint">
              {face === "clipboard" ? "figures from two metres" : "notes, pins, readings, pictures"}
            </span>
          </button>
        </div>
        {act.error && (
          <p role="alert" className="text-body text-error">
            {act.error}
          </p>
        )}
      </div>
      <aside
        className="flex w-[290px] shrink-0 flex-col gap-4 overflow-y-auto border-l border-base-content bg-paper p-4 max-lg:w-full max-lg:border-t max-lg:border-l-0"
        aria-label="Beside the run"
      >
        <Side live={live} draft={draft} />
        {step && step.do_not_touch.length > 0 && (
          <section>
            <h2 className="border-b hairline pb-1 text-body">Do not touch</h2>
            <p className="text-small">{step.do_not_touch.join("; ")}</p>
          </section>
        )}
        <section className="flex flex-col gap-2">
          <label className="flex cursor-pointer items-center gap-2 text-small">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={cue.on}
              onChange={(e) => cue.change(e.target.checked)}
            />
            sound when something is to be done
          </label>
          <Discard draft={draft} />
        </section>
      </aside>
    </div>
  );
}

/** The face of the bench is part of the address, so that a reload and a second screen keep theirs. */
function useFace(): ["gauge" | "clipboard", (face: "gauge" | "clipboard") => void] {
  const read = () => (location.hash === "#clipboard" ? "clipboard" : "gauge");
  const [face, setFace] = useState<"gauge" | "clipboard">(read);
  const change = useCallback((next: "gauge" | "clipboard") => {
    history.replaceState(history.state, "", next === "clipboard" ? "#clipboard" : location.pathname + location.search);
    setFace(next);
  }, []);
  return [face, change];
}

type Action = { words: string; remark: string; run: () => void; disabled?: boolean };

function useActions(live: Live, draft: Draft, onDone: (runId: number) => void) {
  const units = useUnits();
  const start = useStartRun();
  const end = useEndRun();
  const set = useSetUp();
  const error = (start.error ?? end.error ?? set.error)?.message ?? null;
  const endNow = () => end.mutate(draft.id, { onSuccess: (run) => onDone(run.id) });
  const figures = live.figures;
  const settled = figures?.all_settled ?? false;
  let main: Action | null = null;
  let second: Action | null = null;
  if (!draft.started) {
    const may = live.step?.may_start ?? false;
    main = {
      words: "Start the run",
      remark: may
        ? `hands off: logging begins ${draft.protocol.ready_s ?? usual("protocols.*.ready_s")} s later`
        : (live.step?.action ?? ""),
      disabled: !may || start.isPending,
      run: () => may && start.mutate({ run: draft.id, waive: false }),
    };
  } else if (live.step?.phase === "countdown") {
    main = live.step.by_itself
      ? { words: "The load starts by itself at zero", remark: "leave everything as it is", disabled: true, run: () => {} }
      : { words: "Start the load at zero", remark: "then leave everything as it is", disabled: true, run: () => {} };
  } else {
    const left = live.step?.countdown_s;
    const fixed = draft.protocol.end === "fixed";
    main = {
      words: draft.armed ? (fixed ? "Ends at its planned time" : "Ends when all bars touch the mark") : "End it by itself",
      remark: draft.armed
        ? left === 0 && settled
          ? "settled and averaged: it is being ended"
          : left !== null && left !== undefined
            ? `armed: ${live.step?.wait || `in about ${Math.max(1, Math.ceil(left / 60))} min`}, at ${units.band("difference", figures?.end_settled_band_k)} ${units.unit("difference")}; touch to disarm`
            : "armed; touch to disarm"
        : "touch to arm: it ends as soon as it is settled and averaged",
      run: () => set.mutate({ run: draft.id, change: { armed: !draft.armed } }),
    };
    const band = figures?.end_now_band_k;
    second = {
      words: "End now",
      remark: settled
        ? "settled"
        : band !== null && band !== undefined
          ? `at ${units.band("difference", band, band < 10 ? 1 : 0)} ${units.unit("difference")}, marked short`
          : "marked short",
      run: endNow,
    };
  }
  return { main, second, error };
}

function Discard({ draft }: { draft: Draft }) {
  const discard = useDiscardRun();
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  if (!asking)
    return (
      <button type="button" className="self-start cursor-pointer text-small underline" onClick={() => setAsking(true)}>
        discard this run
      </button>
    );
  return (
    <div className="flex flex-col gap-1.5">
      <label className="flex flex-col gap-0.5 text-fine text-faint">
        Why; it stays among the void runs
        <input className="input input-sm text-base-content" value={reason} onChange={(e) => setReason(e.target.value)} />
      </label>
      <div className="flex gap-2">
        <Button small disabled={!reason.trim()} onClick={() => discard.mutate({ run: draft.id, reason })}>
          Discard it
        </Button>
        <Button small onClick={() => setAsking(false)}>
          Keep it
        </Button>
      </div>
    </div>
  );
}

function LiveTrace({ live, draft }: { live: Live; draft: Draft }) {
  const units = useUnits();
  const { shown: convert } = units;
  const shown = useCallback((c: number) => convert("temperature", c), [convert]);
  const asked = useLiveTrace(live.bench.id, live.rate);
  const trace = asked.data;
  const names = trace?.channels.map((c) => c.name).join() ?? "";
  const channels = useMemo(
    () =>
      names
        .split(",")
        .filter(Boolean)
        .map((name) => ({ name, words: channelWords(name) })),
    [names],
  );
  const room = num(live.room_c);
  const ends = useMemo(
    () =>
      (live.figures?.channels ?? [])
        .filter((c) => c.final_k !== null && c.band_k !== null && names.split(",").includes(c.name))
        .map((c) => ({
          name: c.name,
          value: num(c.final_k) + (c.rise_k === null ? 0 : room),
          band: num(c.band_k),
        })),
    [live.figures, room, names],
  );
  const marks = useMemo(() => shadesOf(draft.marks), [draft.marks]);
  if (!trace || trace.elapsed_s.length < 3) return null;
  const now = num(trace.elapsed_s.at(-1));
  const until = now + Math.max(60, Math.min((live.step?.countdown_s ?? Number.POSITIVE_INFINITY) * 1.1, 0.6 * now + 120));
  return (
    <div className="h-52 min-h-40 flex-1 text-fine max-lg:h-64 max-lg:flex-none">
      <Trace
        trace={trace}
        channels={channels}
        window={null}
        unit={units.unit("temperature")}
        shown={shown}
        ends={ends}
        marks={marks}
        until_s={until}
      />
    </div>
  );
}
