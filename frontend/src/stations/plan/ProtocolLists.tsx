import { useProbeAdvice } from "@/shared/api/hooks";
import type { ProtocolDoc } from "@/shared/api/live";
import { pointChannels, pointChoices } from "@/shared/job/points";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { CHOICES, channelWords, readingKind, USUAL_LIMITS, usual, within } from "@/shared/words/words";

type Part = { own: ProtocolDoc; set: (label: string, change: (p: ProtocolDoc) => void) => void };

const assign = (row: object | undefined, field: string, value: unknown) => {
  if (row) Object.assign(row, { [field]: value });
};

/** Channels that must not pass a value in any run. */
export function Limits({ own, set }: Part) {
  const limits: Readonly<Record<string, number>> = USUAL_LIMITS;
  const rows = own.limits ?? [];
  const put = (at: number, field: string, value: unknown) => set("limit", (p) => assign(p.limits?.[at], field, value));
  return (
    <details>
      <summary className="cursor-pointer">Limits watched in every run ({rows.length})</summary>
      <div className="mt-1 flex flex-col gap-2">
        {rows.map((l, i) => (
          <div key={l.channel + String(l.below)} className="flex flex-wrap items-end gap-2">
            <span className="w-24 pb-1">{channelWords(l.channel)}</span>
            <NumberField
              label={l.below ? "not below" : "not above"}
              kind={readingKind(l.channel)}
              {...within("protocols.*.limits.*.value")}
              digits={0}
              value={l.value}
              onCommit={(v) => put(i, "value", v)}
            />
            <Select label="then" value={l.act ?? "stop"} choices={CHOICES["limit.act"]} onChange={(v) => put(i, "act", v)} />
            <label className="flex flex-col gap-0.5 text-fine text-faint">
              set by
              <input
                className="input input-sm w-24 text-base-content"
                defaultValue={l.set_by ?? ""}
                onBlur={(e) => e.target.value !== (l.set_by ?? "") && put(i, "set_by", e.target.value)}
              />
            </label>
            <Button
              small
              onClick={() =>
                set("limit", (p) => {
                  p.limits = (p.limits ?? []).filter((_, k) => k !== i);
                })
              }
            >
              remove
            </Button>
          </div>
        ))}
        <Select
          label="Another limit"
          value=""
          empty="choose a channel"
          choices={Object.keys(limits).map((c) => ({ value: c, words: channelWords(c) }))}
          onChange={(channel) =>
            set("limit", (p) => {
              const below = channel.endsWith("_rpm");
              p.limits = [
                ...(p.limits ?? []),
                {
                  channel,
                  value: limits[channel] as number,
                  below,
                  act: "stop",
                  hold_s: usual("protocols.*.limits.*.hold_s"),
                  set_by: "",
                },
              ];
            })
          }
        />
      </div>
    </details>
  );
}

/** What a run must keep to be accepted. */
export function Criteria({ own, set }: Part) {
  const { document } = useJob();
  const limited = Object.keys(USUAL_LIMITS).filter((c) => c.endsWith("_c"));
  const rows = own.criteria ?? [];
  const put = (at: number, field: string, value: unknown) => set("criterion", (p) => assign(p.criteria?.[at], field, value));
  const named = pointChannels(document);
  const said = (channel: string) => named.get(channel) ?? channelWords(channel);
  const { layoutId } = useWorkbench();
  const advice = useProbeAdvice(document, layoutId);
  const inZone = new Map(
    (document.zones ?? []).map((z) => [
      `zone:${z.id}`,
      (advice.data ?? []).filter((a) => a.zones?.includes(z.id)).map((a) => a.channel),
    ]),
  );
  const zones = (document.zones ?? [])
    .filter((z) => inZone.get(`zone:${z.id}`)?.length)
    .map((z) => ({ value: `zone:${z.id}`, words: `every probe in ${z.name || z.id}` }));
  return (
    <details>
      <summary className="cursor-pointer">Acceptance: limits over room ({rows.length})</summary>
      <div className="mt-1 flex flex-col gap-2">
        {rows.map((c, i) => (
          <div key={c.channel} className="flex flex-wrap items-end gap-2">
            <span className="w-24 pb-1">{said(c.channel)}</span>
            <NumberField
              label="at most, K over room"
              {...within("protocols.*.criteria.*.most_k")}
              digits={1}
              optional="—"
              value={c.most_k ?? null}
              onCommit={(v) => put(i, "most_k", v)}
            />
            <NumberField
              label="steady, K/min"
              {...within("protocols.*.criteria.*.steady_k_min")}
              digits={2}
              optional="—"
              value={c.steady_k_min ?? null}
              onCommit={(v) => put(i, "steady_k_min", v)}
            />
            <label className="flex items-center gap-1 pb-1">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={c.critical ?? false}
                onChange={(e) => put(i, "critical", e.target.checked)}
              />
              critical
            </label>
            <Button
              small
              onClick={() =>
                set("criterion", (p) => {
                  p.criteria = (p.criteria ?? []).filter((_, k) => k !== i);
                })
              }
            >
              remove
            </Button>
          </div>
        ))}
        <Select
          label="Another channel"
          value=""
          empty="choose"
          choices={[...[...limited, ...pointChoices(document)].map((c) => ({ value: c, words: said(c) })), ...zones]}
          onChange={(chosen) =>
            set("criterion", (p) => {
              const there = new Set((p.criteria ?? []).map((c) => c.channel));
              const added = (inZone.get(chosen) ?? [chosen]).filter((c) => !there.has(c));
              p.criteria = [...(p.criteria ?? []), ...added.map((channel) => ({ channel, most_k: 30, critical: false }))];
            })
          }
        />
      </div>
    </details>
  );
}
