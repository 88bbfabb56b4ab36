import { useState } from "react";
import { goingOn, useCancelFind, useFind, useStartFind } from "@/shared/api/propose";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head, Segments, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { useUnits } from "@/shared/units/units";
import { num } from "@/shared/words/lists";
import { FAN_PILES, USUAL, usual, within } from "@/shared/words/words";

type Asked = {
  max_dba: number | null;
  max_cpu_c: number | null;
  max_card_c: number | null;
  max_price: number | null;
  max_minutes: number | null;
  most_fans: number | null;
  scenario: string | null;
  one_fan_may_stop: boolean;
  speeds: "together" | "sides";
  fans: "hand" | "library";
  empty: string[];
  move_radiator: boolean;
  swap_cooler: boolean;
  turn_cooler: boolean;
  turn_card: boolean;
};

/** What is wanted of a layout, in one reading; then every one that there is gets looked at. */
export function FindQuestion() {
  const { id, document } = useJob();
  const { layoutId, by, conditions } = useWorkbench();
  const units = useUnits();
  const find = useFind(id);
  const start = useStartFind(id);
  const cancel = useCancelFind(id);
  const before = find.data?.question;
  const [own, setOwn] = useState<Partial<Asked>>({});
  const scenarios = document.scenarios ?? [];
  const [from, setFrom] = useState<string | null>(null);
  const asked: Asked = {
    max_dba: before ? (before.max_dba ?? null) : (document.room?.sound_limit_dba ?? null),
    max_cpu_c: before?.max_cpu_c ?? null,
    max_card_c: before?.max_card_c ?? null,
    max_price: before?.max_price ?? null,
    max_minutes: before?.max_minutes ?? null,
    most_fans: before?.most_fans ?? null,
    scenario: scenarios.some((x) => x.id === before?.scenario) ? (before?.scenario ?? null) : null,
    one_fan_may_stop: before?.one_fan_may_stop ?? USUAL.find.one_fan_may_stop,
    speeds: before?.speeds ?? USUAL.find.speeds,
    fans: before?.fans ?? USUAL.find.fans,
    empty: before?.empty ?? [],
    move_radiator: before?.move_radiator ?? USUAL.find.move_radiator,
    swap_cooler: before?.swap_cooler ?? USUAL.find.swap_cooler,
    turn_cooler: before?.turn_cooler ?? USUAL.find.turn_cooler,
    turn_card: before?.turn_card ?? USUAL.find.turn_card,
    ...own,
  };
  const say = (change: Partial<Asked>) => setOwn({ ...own, ...change });
  const layouts = document.layouts ?? [];
  const built = from ?? layoutId;
  const going = goingOn(find.data);
  const worst = document.room?.worst_temperature_c ?? document.room?.temperature_c ?? usual("room.temperature_c");
  const load = conditions.load === "own" ? "both" : conditions.load;
  const ask = () => start.mutate({ document, question: { ...asked, start: built, load }, learned: by === "learned" });
  const done = num(find.data?.done);
  const total = num(find.data?.total);
  return (
    <section className="flex flex-col gap-3" data-find={find.data?.state ?? "none"}>
      <Head remark="any may stay empty">It must keep</Head>
      <NumberField
        label="No louder than"
        kind="level"
        digits={1}
        optional="any"
        value={asked.max_dba}
        {...within("ask.quiet_dba")}
        onCommit={(v) => say({ max_dba: v })}
      />
      <div className="flex gap-3">
        <NumberField
          label="Processor at most"
          kind="temperature"
          digits={0}
          optional="any"
          value={asked.max_cpu_c}
          {...within("ask.part_c")}
          onCommit={(v) => say({ max_cpu_c: v })}
        />
        <NumberField
          label="Card at most"
          kind="temperature"
          digits={0}
          optional="any"
          value={asked.max_card_c}
          {...within("ask.part_c")}
          onCommit={(v) => say({ max_card_c: v })}
        />
      </div>
      <p className="text-fine text-faint">
        Temperatures are held to in the warmest room, {units.withUnit("temperature", worst, 0)}.
      </p>
      <Tick
        words="Also while any one case fan stands still"
        on={asked.one_fan_may_stop}
        set={(v) => say({ one_fan_may_stop: v })}
      />
      {scenarios.length > 0 && (
        <Select
          label="With the heat of"
          value={asked.scenario ?? ""}
          empty="today's parts"
          choices={scenarios.map((x) => ({
            value: x.id,
            words: `${x.name || x.id}, +${num(x.cpu_add_w) + num(x.card_add_w)} W`,
          }))}
          onChange={(v) => say({ scenario: v || null })}
          wide
        />
      )}
      <Segments label="Which fans" value={asked.fans} choices={FAN_PILES} onChange={(fans) => say({ fans })} />
      {asked.fans === "library" ? (
        <NumberField
          label="To be spent at most"
          digits={2}
          optional="any"
          value={asked.max_price}
          {...within("ask.price")}
          onCommit={(v) => say({ max_price: v })}
        />
      ) : (
        <p className="text-fine text-faint">
          {document.stock ? "As counted in Parts." : "As many as your layouts use at once; count them in Parts."}
        </p>
      )}
      <Select
        label="Work is counted from"
        value={built}
        choices={layouts.map((x) => ({ value: x.id, words: `${x.id}, ${x.name || "as drawn"}` }))}
        onChange={setFrom}
        wide
      />
      <details className="text-small" open={asked.empty.length > 0}>
        <summary className="cursor-pointer">Mounts, fans, and what may be moved</summary>
        <div className="mt-2 flex flex-col gap-2">
          <NumberField
            label="Minutes of work at most"
            digits={0}
            optional="any"
            value={asked.max_minutes}
            {...within("ask.work_min")}
            onCommit={(v) => say({ max_minutes: v })}
          />
          <NumberField
            label="No more fans than"
            digits={0}
            optional="any"
            value={asked.most_fans}
            {...within("ask.fans")}
            onCommit={(v) => say({ most_fans: v === null ? null : Math.round(v) })}
          />
          <fieldset className="flex flex-wrap gap-1.5" aria-label="Mounts that stay empty">
            <legend className="text-fine text-faint">Stays empty</legend>
            {(document.case.mounts ?? []).map((m) => (
              <label key={m.id} className="flex cursor-pointer items-center gap-1 rounded-md border hairline px-1.5 py-0.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={asked.empty.includes(m.id)}
                  onChange={(e) =>
                    say({ empty: e.target.checked ? [...asked.empty, m.id] : asked.empty.filter((x) => x !== m.id) })
                  }
                />
                <span className="font-mono">{m.id.toUpperCase()}</span>
              </label>
            ))}
          </fieldset>
          <Tick
            words="Each side may have a speed of its own"
            on={asked.speeds === "sides"}
            set={(v) => say({ speeds: v ? "sides" : "together" })}
          />
          <Tick words="The radiator may go elsewhere" on={asked.move_radiator} set={(v) => say({ move_radiator: v })} />
          <Tick words="Another cooler of your layouts may be taken" on={asked.swap_cooler} set={(v) => say({ swap_cooler: v })} />
          <Tick words="A tower may blow up or to the rear" on={asked.turn_cooler} set={(v) => say({ turn_cooler: v })} />
          <Tick words="The card may stand upright" on={asked.turn_card} set={(v) => say({ turn_card: v })} />
        </div>
      </details>
      {going ? (
        <div className="flex flex-col gap-1.5" role="status">
          <progress className="progress w-full" value={done} max={Math.max(total, 1)} aria-label="Search" />
          <p className="flex items-baseline justify-between text-small">
            <span data-progress>
              {total > 0 ? `${done.toLocaleString("en")} of ${total.toLocaleString("en")} forecasts` : "Getting ready …"}
            </span>
            <Button small onClick={() => find.data && cancel.mutate(find.data.id)}>
              call it off
            </Button>
          </p>
        </div>
      ) : (
        <Button strong disabled={start.isPending || layouts.length === 0} onClick={ask}>
          {find.data?.result ? "Look again" : "Look at every layout"}
        </Button>
      )}
      {start.error && (
        <p role="alert" className="text-small text-error">
          {start.error.message}
        </p>
      )}
      {find.data?.state === "failed" && find.data.fault && (
        <p role="alert" className="text-small text-error">
          {find.data.fault.title}. {find.data.fault.do}
        </p>
      )}
      <p className="text-fine text-faint">
        Every way to put the fans is forecast, {by === "learned" ? "as your runs have taught" : "from the parts' sheets alone"}.
        What does not go together is left out. A forecast proposes, a run decides.
      </p>
    </section>
  );
}

function Tick({ words, on, set }: { words: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex cursor-pointer items-center gap-2">
      <input type="checkbox" className="checkbox checkbox-xs" checked={on} onChange={(e) => set(e.target.checked)} />
      {words}
    </label>
  );
}
