import { useState } from "react";
import type { Verdict } from "@/shared/api/hooks";
import { Empty, Segments } from "@/shared/ui/bits";
import { channelWords } from "@/shared/words/words";
import { Way } from "./Argument";
import { DesignView } from "./DesignView";
import { EqualNoiseView } from "./EqualNoiseView";
import { LadderView } from "./LadderView";
import { NamedView, PriceView } from "./Prices";

type Props = { v: Verdict; level: number | null; onLevel: (level: number | null) => void };

/** What each change did: ways, ladders, designs, named pairs, prices, and layouts at the same level. */
export function Effects({ v, level, onLevel }: Props) {
  const [channel, setChannel] = useState<"cpu_package_c" | "card_core_c">("cpu_package_c");
  const e = v.effects;
  const own = <T extends { channel: string }>(rows: T[]) => rows.filter((r) => r.channel === channel);
  const ladders = e.ladders.filter((l) => l.ladder.channel === channel);
  const held = v.figures.filter((f) => f.channel === channel && f.at_limit).map((f) => f.layout);
  const way = e.ways.find((w) => w.channel === channel);
  const walked = way ? [way.steps[0]?.start, ...way.steps.map((x) => x.end)].join() : "";
  const nothing = !e.ways.length && !e.ladders.length && !e.designs.length && !e.named.length && !e.prices.length;
  return (
    <>
      <header className="flex items-center justify-between gap-3">
        <h1 className="text-figure">What each change did</h1>
        <Segments
          label="Of which part"
          value={channel}
          choices={[
            { value: "cpu_package_c", words: "processor" },
            { value: "card_core_c", words: "card" },
          ]}
          onChange={setChannel}
        />
      </header>
      {held.length > 0 && (
        <p className="text-body text-warning" data-held={held.join()}>
          {held.join(" and ")}: the {channelWords(channel)} stood at its limit, so that its temperature says nothing of a change.
          Where its power was read, the way is told by that.
        </p>
      )}
      {nothing && (
        <Empty title="Nothing to take apart yet">
          <p>Run layouts that differ by one change, or plan a ladder or all combinations under Plan.</p>
        </Empty>
      )}
      {!ladders.some((l) => walked === l.rungs.map((r) => r.layout).join()) && <Way v={v} channel={channel} />}
      {ladders.map((l) => (
        <LadderView key={l.rungs.map((r) => r.layout).join("")} ladder={l} />
      ))}
      {own(e.designs).map((d) => (
        <DesignView key={d.layouts.join("")} design={d} />
      ))}
      {own(e.named).length > 0 && <NamedView rows={own(e.named)} />}
      {own(e.equal_noise).map((q) => (
        <EqualNoiseView key={q.channel} equal={q} level={level} onLevel={onLevel} />
      ))}
      {own(e.prices).length > 0 && <PriceView rows={own(e.prices)} />}
    </>
  );
}
