import { useState } from "react";
import { type ProtocolDoc, plannedRuns, useTemplates } from "@/shared/api/live";
import { latestProtocols } from "@/shared/job/plan";
import { useJob } from "@/shared/job/store";
import { Button, Head, Segments, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { Term } from "@/shared/ui/Term";
import { ORDERS, usual, within } from "@/shared/words/words";

type Shuffle = "as_listed" | "random" | "there_and_back";

/** Layouts, protocol, control, repeats and order; the run sheet is made from them. */
export function PlanMaker({ suggested }: { suggested: string }) {
  const { document, edit } = useJob();
  const templates = useTemplates();
  const own = latestProtocols(document);
  const layouts = document.layouts ?? [];
  const plan = document.plan;
  const planned = [...new Set((plan?.runs ?? []).map((r) => r.layout))];
  const [chosen, setChosen] = useState<string[] | null>(null);
  const [protocolId, setProtocolId] = useState("");
  const [control, setControl] = useState<string | null>(null);
  const [repeats, setRepeats] = useState<number | null>(null);
  const [shuffle, setShuffle] = useState<Shuffle>("random");
  const [error, setError] = useState("");
  const wanted = chosen ?? (planned.length ? planned : layouts.map((x) => x.id));
  const choices = [
    ...own.map((p) => ({ value: p.id, words: p.name || p.id })),
    ...(templates.data ?? []).filter((t) => !own.some((p) => p.id === t.id)).map((t) => ({ value: t.id, words: t.name || t.id })),
  ];
  const name = protocolId || plan?.protocol || suggested;
  const protocol: ProtocolDoc | undefined = own.find((p) => p.id === name) ?? templates.data?.find((t) => t.id === name);
  const first = control ?? plan?.control ?? wanted[0] ?? "";
  const times = repeats ?? plan?.repeats ?? usual("plan.repeats");
  const make = async () => {
    if (!protocol) return;
    try {
      const runs = await plannedRuns({
        order: layouts.map((x) => x.id).filter((x) => wanted.includes(x) || x === first),
        protocol,
        control: first || null,
        repeats: times,
        shuffle,
        seed: 1 + Math.floor(Math.random() * 1e6),
      });
      setError("");
      edit("make the run sheet", (d) => {
        if (!(d.protocols ?? []).some((p) => p.id === protocol.id)) d.protocols = [...(d.protocols ?? []), protocol];
        d.plan = { ...(d.plan ?? {}), protocol: protocol.id, control: first || null, repeats: times, runs };
      });
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <section className="flex flex-col gap-3">
      <Head remark={`${wanted.length} of ${layouts.length}`}>
        Layouts to run, and the <Term t="control" />
      </Head>
      <div className="flex flex-wrap gap-2">
        {layouts.map((x) => (
          <label
            key={x.id}
            className="flex cursor-pointer items-center gap-1.5 rounded-md border hairline px-2 py-1 text-body"
            title={x.name}
          >
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={wanted.includes(x.id)}
              onChange={(e) => setChosen(e.target.checked ? [...wanted, x.id] : wanted.filter((w) => w !== x.id))}
            />
            <span className="font-mono font-semibold">{x.id}</span>
          </label>
        ))}
      </div>
      <Select label="Protocol" value={name} choices={choices} onChange={setProtocolId} wide />
      <p className="text-small text-faint">{protocol?.purpose}</p>
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="Control: run first, and again at the end"
          value={first}
          empty="none"
          choices={layouts.map((x) => ({ value: x.id, words: `${x.id}, ${x.name ?? ""}` }))}
          onChange={setControl}
        />
        <NumberField
          label="Repeats"
          {...within("plan.repeats")}
          digits={0}
          value={times}
          onCommit={(v) => v && setRepeats(Math.round(v))}
        />
      </div>
      <Segments label="Order" value={shuffle} choices={ORDERS} onChange={setShuffle} />
      {shuffle === "as_listed" && (
        <p className="text-fine text-warning" data-order-risk>
          As lettered, whatever drifts over the evening looks like a difference of the layouts.
        </p>
      )}
      {error && (
        <p role="alert" className="text-small text-error">
          {error}
        </p>
      )}
      <div>
        <Button strong disabled={!protocol || !wanted.length} onClick={() => void make()}>
          {plan?.runs?.length ? "Make the run sheet anew" : "Make the run sheet"}
        </Button>
      </div>
    </section>
  );
}
