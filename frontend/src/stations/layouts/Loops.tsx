import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { curveChoices, setting } from "@/shared/job/edits";
import { DocNumber, DocSelect, DocTick, DocTicks } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { Button, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { has } from "@/shared/words/lists";
import { CAUTIONS, CHOICES } from "@/shared/words/words";
import type { Change } from "./choices";
import { MountTicks } from "./MountTicks";
import { TubeSide } from "./TubeSide";

type Loop = Schemas["LoopDoc"];
type Place = Schemas["RadiatorPlaceDoc"];
const HEATS = CHOICES["loop.heat"];

/** Loops in full: what each cools, its pump, its reservoir and its radiators. A simple sealed cooler needs none of it. */
export function Loops({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const at = (document.layouts ?? []).findIndex((x) => x.id === layout.id);
  const wet = (document.parts?.coolers ?? []).filter((c) => c.kind === "sealed" || c.kind === "open_loop");
  const loops = layout.loops ?? [];
  if (!wet.length || !document.parts?.radiators?.length) return null;
  const begin = () =>
    change(`a loop in ${layout.id}`, (x) => {
      const own = setting(document, layout, "cooler");
      const cooler = wet.find((c) => c.id === own)?.id ?? wet[0]?.id ?? "";
      const taken = new Set(loops.flatMap((l) => l.heat ?? ["cpu"]));
      const heat: Loop["heat"] = taken.has("cpu") ? ["card"] : ["cpu"];
      const open = wet.find((c) => c.id === cooler)?.kind === "open_loop";
      const radiators = !loops.length && x.radiator ? [x.radiator] : [];
      x.loops = [...(x.loops ?? []), { cooler, heat, reservoir: open, radiators }];
      x.radiator = null;
    });
  const plain = () =>
    change(`one sealed cooler in ${layout.id}`, (x) => {
      x.radiator = x.loops?.[0]?.radiators?.[0] ?? null;
      x.loops = null;
    });
  return (
    <div className="flex flex-col gap-2" data-loops={loops.length}>
      {loops.map((loop, i) => (
        <OneLoop
          key={(loop.heat ?? ["cpu"]).join()}
          loop={loop}
          path={["layouts", at, "loops", i]}
          number={i}
          change={change}
          layout={layout}
        />
      ))}
      <div className="flex gap-2">
        {loops.length < 2 && (
          <Button small onClick={begin}>
            {loops.length ? "Add a second loop" : "Several radiators, an open loop, or the card on a loop"}
          </Button>
        )}
        {loops.length > 0 && (
          <Button small onClick={plain}>
            back to one sealed cooler
          </Button>
        )}
      </div>
    </div>
  );
}

type Props = { loop: Loop; path: (string | number)[]; number: number; layout: LayoutDoc; change: Change };

function OneLoop({ loop, path, number, layout, change }: Props) {
  const { document } = useJob();
  const wet = (document.parts?.coolers ?? []).filter((c) => c.kind === "sealed" || c.kind === "open_loop");
  const radiators = document.parts?.radiators ?? [];
  const mounts = document.case.mounts ?? [];
  const own = (step: (l: Loop) => void, label: string) =>
    change(label, (x) => {
      const here = x.loops?.[number];
      if (here) step(here);
    });
  const taken = (except: Place) =>
    new Set(
      (layout.loops ?? [])
        .flatMap((l) => l.radiators ?? [])
        .filter((r) => r !== except)
        .flatMap((r) => r.mounts),
    );
  const add = () =>
    own(
      (l) => {
        const free = mounts.find((m) => !(layout.loops ?? []).some((o) => o.radiators?.some((r) => r.mounts.includes(m.id))));
        if (radiators[0] && free) l.radiators = [...(l.radiators ?? []), { radiator: radiators[0].id, mounts: [free.id] }];
      },
      `a radiator on loop ${number + 1}`,
    );
  return (
    <div className="flex flex-col gap-2 rounded-box border hairline p-2.5" data-loop-edit={number}>
      <div className="flex flex-wrap items-end gap-3">
        <strong className="pb-1.5 text-body">Loop {number + 1}</strong>
        <DocSelect
          label="Pump and blocks"
          path={[...path, "cooler"]}
          fallback=""
          choices={wet.map((c) => ({ value: c.id, words: c.name || c.id }))}
        />
        <DocTicks label="cools" path={[...path, "heat"]} choices={HEATS} />
        <DocNumber label="Pump" path={[...path, "pump_pct"]} kind="share" />
        {has(document.curves) && (
          <DocSelect label="Pump runs at" path={[...path, "pump_curve"]} fallback="" choices={curveChoices(document)} />
        )}
        <DocTick label="has a reservoir" path={[...path, "reservoir"]} />
        <span className="ml-auto">
          <Button
            small
            onClick={() =>
              change(`no loop ${number + 1}`, (x) => {
                x.loops = (x.loops ?? []).filter((_, i) => i !== number);
                if (!x.loops.length) x.loops = null;
              })
            }
          >
            remove
          </Button>
        </span>
      </div>
      {(loop.radiators ?? []).map((place, j) => (
        <div
          // biome-ignore lint/suspicious/noArrayIndexKey: a place has no id of its own, and a tick must keep its focus
          key={j}
          className="flex flex-wrap items-end gap-3 border-t hairline pt-2"
          data-loop-radiator={j}
        >
          <Select
            label="Radiator"
            value={place.radiator}
            choices={radiators.map((r) => ({ value: r.id, words: r.name || r.id }))}
            onChange={(v) =>
              own((l) => {
                const here = l.radiators?.[j];
                if (here) here.radiator = v;
              }, "other radiator")
            }
          />
          <MountTicks
            chosen={place.mounts}
            taken={taken(place)}
            onChange={(next) =>
              own((l) => {
                const here = l.radiators?.[j];
                if (here && next.length) here.mounts = next;
              }, "place of a radiator")
            }
          />
          <DocNumber label="Gap to its fans" path={[...path, "radiators", j, "gap_mm"]} kind="length" />
          <TubeSide layout={layout} path={[...path, "radiators", j]} mounts={place.mounts} />
          <Button
            small
            onClick={() =>
              own((l) => {
                l.radiators = (l.radiators ?? []).filter((_, i) => i !== j);
              }, "no radiator")
            }
          >
            take off
          </Button>
        </div>
      ))}
      <div>
        <Button small onClick={add}>
          Add a radiator to loop {number + 1}
        </Button>
      </div>
      {loop.reservoir && <Caution>{CAUTIONS.openLoop}</Caution>}
      <Caution>{CAUTIONS.radiator}</Caution>
    </div>
  );
}
