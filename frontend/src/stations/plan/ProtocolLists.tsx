import type { ProtocolDoc } from "@/shared/api/live";
import { useJob } from "@/shared/job/store";
import { Button, Select } from "@/shared/ui/bits";
import { channelWords } from "@/shared/ui/channels";
import { NumberField } from "@/shared/ui/NumberField";

const LIMITED = [
  "cpu_package_c",
  "card_core_c",
  "card_hotspot_c",
  "card_memory_c",
  "vrm_c",
  "coolant_c",
  "air_rear_c",
  "pump_rpm",
];

type Part = { own: ProtocolDoc; set: (label: string, change: (p: ProtocolDoc) => void) => void };

/** Channels that must not pass a value in any run. */
export function Limits({ own, set }: Part) {
  const rows = own.limits ?? [];
  return (
    <details>
      <summary className="cursor-pointer">Limits watched in every run ({rows.length})</summary>
      <div className="mt-1 flex flex-col gap-2">
        {rows.map((l, i) => (
          <div key={l.channel + String(l.below)} className="flex flex-wrap items-end gap-2">
            <span className="w-24 pb-1">{channelWords(l.channel)}</span>
            <NumberField
              label={l.below ? "not below" : l.channel.endsWith("_c") ? "not above, °C" : "not above"}
              low={-50}
              high={20000}
              digits={0}
              value={l.value}
              onCommit={(v) =>
                v !== null &&
                set("limit", (p) => {
                  const own = p.limits?.[i];
                  if (own) own.value = v;
                })
              }
            />
            <Select
              label="then"
              value={l.act ?? "stop"}
              choices={[
                { value: "stop", words: "stop" },
                { value: "alarm", words: "alarm" },
              ]}
              onChange={(v) =>
                set("limit", (p) => {
                  const own = p.limits?.[i];
                  if (own) own.act = v as "stop" | "alarm";
                })
              }
            />
            <label className="flex flex-col gap-0.5 text-[12.5px] text-faint">
              set by
              <input
                className="input input-sm w-24 text-base-content"
                defaultValue={l.set_by ?? ""}
                onBlur={(e) =>
                  e.target.value !== (l.set_by ?? "") &&
                  set("limit", (p) => {
                    const own = p.limits?.[i];
                    if (own) own.set_by = e.target.value;
                  })
                }
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
          choices={LIMITED.map((c) => ({ value: c, words: channelWords(c) }))}
          onChange={(channel) =>
            set("limit", (p) => {
              const below = channel.endsWith("_rpm");
              const value = below ? 600 : channel === "coolant_c" ? 60 : channel === "air_rear_c" ? 55 : 95;
              p.limits = [...(p.limits ?? []), { channel, value, below, act: "stop", hold_s: 5, set_by: "" }];
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
  const rows = own.criteria ?? [];
  const points = (document.points ?? []).map((p) => `air_${p.id}_c`);
  return (
    <details>
      <summary className="cursor-pointer">Acceptance: limits over room ({rows.length})</summary>
      <div className="mt-1 flex flex-col gap-2">
        {rows.map((c, i) => (
          <div key={c.channel} className="flex flex-wrap items-end gap-2">
            <span className="w-24 pb-1">{channelWords(c.channel)}</span>
            <NumberField
              label="at most, K over room"
              low={0}
              high={150}
              digits={1}
              optional="—"
              value={c.most_k ?? null}
              onCommit={(v) =>
                set("criterion", (p) => {
                  const own = p.criteria?.[i];
                  if (own) own.most_k = v;
                })
              }
            />
            <NumberField
              label="steady, K/min"
              low={0}
              high={5}
              digits={2}
              optional="—"
              value={c.steady_k_min ?? null}
              onCommit={(v) =>
                set("criterion", (p) => {
                  const own = p.criteria?.[i];
                  if (own) own.steady_k_min = v;
                })
              }
            />
            <label className="flex items-center gap-1 pb-1">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={c.critical ?? false}
                onChange={(e) =>
                  set("criterion", (p) => {
                    const own = p.criteria?.[i];
                    if (own) own.critical = e.target.checked;
                  })
                }
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
          choices={[...LIMITED.filter((c) => c.endsWith("_c")), ...points].map((c) => ({ value: c, words: channelWords(c) }))}
          onChange={(channel) =>
            set("criterion", (p) => {
              p.criteria = [...(p.criteria ?? []), { channel, most_k: 30, critical: false }];
            })
          }
        />
      </div>
    </details>
  );
}
