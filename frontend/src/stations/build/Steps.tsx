import { useState } from "react";
import { type Sheet, type Step, type Tick, useTick, type Which } from "@/shared/api/build";
import { Button } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { hours } from "@/shared/units/hours";
import { Said } from "@/shared/units/Said";
import { num } from "@/shared/words/lists";
import { BUILD_CHAPTERS, BUILD_OVER, CAUTIONS, said } from "@/shared/words/words";
import { Turned } from "./FanPanel";

/** A drawing made by the server, shown as a picture: nothing in it can run. */
export function Drawing({ svg, words, wide }: { svg: string; words: string; wide?: boolean }) {
  return (
    <img
      alt={words}
      className={`rounded-md ${wide ? "w-full" : "w-44"}`}
      src={`data:image/svg+xml;utf8,${encodeURIComponent(svg)}`}
    />
  );
}

/** One step after the other; what waits for another cannot be ticked yet. */
export function Steps({ sheet, which, large }: { sheet: Sheet; which: Which; large: boolean }) {
  const { build, ticks } = sheet;
  const tick = useTick(which);
  const [open, setOpen] = useState<string | null>(null);
  const standing = new Map(ticks.filter((t) => t.stands).map((t) => [t.step, t]));
  const changed = new Map(ticks.filter((t) => !t.stands).map((t) => [t.step, t]));
  const number = new Map(build.steps.map((s, i) => [s.id, i + 1]));
  const waits = (s: Step) => (s.after ?? []).filter((a) => !standing.has(a));
  const next = build.steps.find((s) => !standing.has(s.id) && waits(s).length === 0);
  const left = build.steps.filter((s) => !standing.has(s.id)).reduce((sum, s) => sum + s.minutes, 0);
  const otherwise = ticks.filter((t) => t.stands && t.state !== "done");
  const unseen = build.steps.filter((s) => s.sight && standing.get(s.id)?.state !== "done").length;
  const shown = open ?? next?.id ?? null;
  const say = (step: string, state: "done" | "otherwise" | "skipped" | "open", note = "") => {
    setOpen(null);
    tick.mutate({ step, state, note });
  };
  return (
    <section className="flex flex-col gap-3" data-ticked={standing.size} data-steps={build.steps.length}>
      <div className="sticky top-0 z-10 flex flex-col gap-1 bg-base-200 py-1">
        <progress
          className="progress w-full"
          value={standing.size}
          max={Math.max(build.steps.length, 1)}
          aria-label="Steps done"
        />
        <p className="flex flex-wrap justify-between gap-x-4 text-small">
          <span>
            {standing.size} of {build.steps.length} done
            {left > 0 ? `, about ${hours(left)} left` : ", all done"}
          </span>
          {unseen > 0 && <span className="text-faint">{unseen} fans not yet seen to blow their way</span>}
        </p>
      </div>
      {tick.error && (
        <p role="alert" className="text-small text-error">
          {tick.error.message}
        </p>
      )}
      <ol className="flex flex-col">
        {build.steps.map((s, i) => (
          <StepLine
            key={s.id}
            step={s}
            n={i + 1}
            chapter={build.steps[i - 1]?.chapter !== s.chapter ? said(BUILD_CHAPTERS, s.chapter) : ""}
            tick={standing.get(s.id)}
            was={changed.get(s.id)}
            waits={waits(s).map((a) => num(number.get(a)))}
            open={shown === s.id}
            next={next?.id === s.id}
            large={large}
            busy={tick.isPending}
            onOpen={() => setOpen(shown === s.id ? "" : s.id)}
            onSay={(state, note) => say(s.id, state, note)}
            picture={<StepPicture sheet={sheet} step={s} />}
          />
        ))}
      </ol>
      {otherwise.length > 0 && (
        <div className="rounded-box border hairline bg-paper p-3" data-otherwise={otherwise.length}>
          <h2 className="text-body">Built otherwise</h2>
          <ul className="list-disc pl-5 text-small">
            {otherwise.map((t) => (
              <li key={t.step}>
                <Said text={t.words} />: {said(BUILD_OVER, t.state)}
                {t.note && `, “${t.note}”`}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}

function StepPicture({ sheet, step }: { sheet: Sheet; step: Step }) {
  const at = sheet.build.fans.findIndex((f) => f.mount === step.mount && f.layer === step.layer);
  const fan = sheet.build.fans[at];
  const pictures = sheet.pictures[at];
  return fan && pictures ? <Turned fan={fan} pictures={pictures} /> : null;
}

type Line = {
  step: Step;
  n: number;
  chapter: string;
  tick: Tick | undefined;
  was: Tick | undefined;
  waits: number[];
  open: boolean;
  next: boolean;
  large: boolean;
  busy: boolean;
  onOpen: () => void;
  onSay: (state: "done" | "otherwise" | "skipped" | "open", note?: string) => void;
  picture: React.ReactNode;
};

function StepLine(props: Line) {
  const { step, tick, waits } = props;
  const [note, setNote] = useState("");
  const blocked = !tick && waits.length > 0;
  const caution = step.caution ? said(CAUTIONS, step.caution) : "";
  const told = note.trim().length > 2;
  return (
    <li data-step={step.id} data-state={tick?.state ?? (blocked ? "waits" : "open")}>
      {props.chapter && <h2 className="mt-4 border-b hairline pb-1 text-body">{props.chapter}</h2>}
      <div
        className={`flex gap-3 border-b hairline py-2 ${props.next ? "border-l-4 border-l-base-content bg-paper pl-2" : ""} ${
          blocked ? "text-faint" : ""
        }`}
      >
        <input
          type="checkbox"
          className={`checkbox mt-0.5 shrink-0 ${props.large ? "checkbox-lg" : ""} max-sm:checkbox-lg`}
          aria-label={`step ${props.n} done: ${step.words}`}
          checked={tick !== undefined}
          disabled={blocked}
          onChange={(e) => props.onSay(e.target.checked ? "done" : "open")}
        />
        <div className="flex min-w-0 flex-1 flex-col gap-1.5">
          <button type="button" aria-expanded={props.open} className="cursor-pointer text-left" onClick={props.onOpen}>
            <span className="font-mono text-faint">{props.n} </span>
            <span className={`font-semibold ${tick ? "line-through decoration-1" : ""}`}>
              <Said text={step.words} />
            </span>
            {tick && tick.state !== "done" && <em className="text-small"> {said(BUILD_OVER, tick.state)}</em>}
            {step.gate && !tick && <span className="text-small"> · not to be left out</span>}
            {blocked && <span className="block text-small">first {waits.slice(0, 4).join(", ")}</span>}
            {!tick && props.was && (
              <span className="block text-small text-warning">
                ticked before for: {props.was.words}; the sheet asks for something else now
              </span>
            )}
          </button>
          {props.open && (
            <div className="flex flex-col gap-2">
              <div className="flex gap-3 max-sm:flex-col">
                {props.picture}
                {(step.details ?? []).length > 0 && (
                  <ul className={`list-disc pl-5 ${props.large ? "" : "text-small"}`}>
                    {step.details?.map((x) => (
                      <li key={x}>
                        <Said text={x} />
                      </li>
                    ))}
                  </ul>
                )}
              </div>
              {caution && <Caution>{caution}</Caution>}
              {!tick && !blocked && (
                <div className="flex flex-wrap items-center gap-2">
                  <Button strong disabled={props.busy} onClick={() => props.onSay("done")}>
                    Done
                  </Button>
                  <input
                    className="input input-sm w-64 max-w-full"
                    aria-label={`what is otherwise at step ${props.n}`}
                    placeholder="otherwise, or why not"
                    value={note}
                    maxLength={500}
                    onChange={(e) => setNote(e.target.value)}
                  />
                  <Button small disabled={props.busy || !told} onClick={() => props.onSay("otherwise", note)}>
                    done otherwise
                  </Button>
                  <Button small disabled={props.busy || (step.gate && !told)} onClick={() => props.onSay("skipped", note)}>
                    leave out
                  </Button>
                </div>
              )}
              {tick?.note && <p className="text-small">“{tick.note}”</p>}
            </div>
          )}
        </div>
        <span className="shrink-0 font-mono text-small text-faint">{step.minutes} min</span>
      </div>
    </li>
  );
}
