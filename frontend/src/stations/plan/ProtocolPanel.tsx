import { useState } from "react";
import { type ProtocolDoc, useBenchWords, useTemplates } from "@/shared/api/live";
import { freeId } from "@/shared/job/edits";
import { changeProtocol, latestProtocols, protocolKey } from "@/shared/job/plan";
import { useJob } from "@/shared/job/store";
import { Button, Segments, Select } from "@/shared/ui/bits";
import { channelWords } from "@/shared/ui/channels";
import { NumberField } from "@/shared/ui/NumberField";

const LENGTHS = [5, 10, 15, 20, 30, 60, 90];
const STATISTICS = [
  { value: "tail_mean", words: "mean of the window at the end" },
  { value: "tail_max", words: "largest in that window" },
  { value: "last_minute", words: "mean of the last minute" },
  { value: "core_mean", words: "mean of all cores in that window" },
];
const CAUTION_NAMES: Record<string, string> = {
  fog: "fog",
  solvent: "solvent",
  panel_off: "panel off",
  chamber: "chamber",
  cap_raised: "a raised limit",
  blocked_vents: "blocked vents",
  long_load: "an hour or more at full load",
};
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

/** One protocol, edited in place. A version that runs were made with stays; the change makes the next. */
export function ProtocolPanel({ used }: { used: Set<string> }) {
  const { document, edit } = useJob();
  const words = useBenchWords();
  const templates = useTemplates();
  const all = latestProtocols(document);
  const [name, setName] = useState("");
  const own = all.find((p) => p.id === name) ?? all.find((p) => p.id === document.plan?.protocol) ?? all[0];
  const set = (label: string, change: (p: ProtocolDoc) => void) =>
    own && edit(`protocol: ${label}`, (d) => changeProtocol(d, own.id, used, change));
  const add = (t: ProtocolDoc) => {
    const id = freeId(
      all.map((p) => p.id),
      t.id,
    );
    edit(`take up ${t.name}`, (d) => {
      d.protocols = [...(d.protocols ?? []), { ...t, id, version: 1 }];
    });
    setName(id);
  };
  const templateChoice = (
    <Select
      label={own ? "Another from a template" : "Begin with a template"}
      value=""
      empty="choose"
      choices={(templates.data ?? []).map((t) => ({ value: t.id, words: t.name || t.id }))}
      onChange={(v) => {
        const t = templates.data?.find((x) => x.id === v);
        if (t) add(t);
      }}
    />
  );
  if (!own) return <div className="pt-2">{templateChoice}</div>;
  const locked = used.has(protocolKey(own));
  const toggle = <T,>(list: T[], value: T, on: boolean) => (on ? [...list, value] : list.filter((x) => x !== value));
  return (
    <div className="flex flex-col gap-3 pt-2 text-[13.5px]" data-protocol={protocolKey(own)}>
      {all.length > 1 && (
        <Select
          label="Protocol to edit"
          value={own.id}
          choices={all.map((p) => ({ value: p.id, words: p.name || p.id }))}
          onChange={setName}
        />
      )}
      <p>
        <strong>{own.name || own.id}</strong>, version {own.version ?? 1}
        {locked ? (
          <span className="text-faint">; runs were made with it, so a change makes version {(own.version ?? 1) + 1}</span>
        ) : (
          ""
        )}
      </p>
      <div>
        <span className="text-[12.5px] text-faint">At most, minutes</span>
        <div className="flex flex-wrap items-end gap-2">
          <Segments
            label="Length"
            value={String(own.minutes ?? 30)}
            choices={LENGTHS.map((m) => ({ value: String(m), words: String(m) }))}
            onChange={(v) =>
              set("length", (p) => {
                p.minutes = Number(v);
              })
            }
          />
        </div>
      </div>
      <Segments
        label="Ends"
        value={own.end ?? "settled"}
        choices={[
          { value: "settled", words: "when settled" },
          { value: "fixed", words: "at its time" },
        ]}
        onChange={(v) =>
          set("end", (p) => {
            p.end = v as "settled" | "fixed";
          })
        }
      />
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="Figure"
          value={own.statistic ?? "tail_mean"}
          choices={STATISTICS}
          onChange={(v) =>
            set("figure", (p) => {
              p.statistic = v as ProtocolDoc["statistic"];
            })
          }
        />
        <NumberField
          label="Window, s"
          low={10}
          high={3600}
          digits={0}
          value={own.window_s ?? 300}
          onCommit={(v) =>
            v &&
            set("window", (p) => {
              p.window_s = v;
            })
          }
        />
        <NumberField
          label="At least, min"
          low={0}
          high={1440}
          digits={0}
          value={own.least_minutes ?? 5}
          onCommit={(v) =>
            v !== null &&
            set("least length", (p) => {
              p.least_minutes = v;
            })
          }
        />
        <NumberField
          label="Cool down to, K over room"
          low={0}
          high={60}
          optional="no gate"
          value={own.cool_down_k ?? null}
          onCommit={(v) =>
            set("cool-down", (p) => {
              p.cool_down_k = v;
            })
          }
        />
        <NumberField
          label="Purge of a new loop, min"
          low={0}
          high={240}
          digits={0}
          value={own.purge_minutes ?? 15}
          onCommit={(v) =>
            v !== null &&
            set("purge", (p) => {
              p.purge_minutes = v;
            })
          }
        />
      </div>
      <Ticks
        words="Loads: one run of each per layout"
        choices={Object.entries(words.data?.loads ?? {})}
        chosen={own.loads ?? ["both"]}
        onChange={(v, on) =>
          set("loads", (p) => {
            const next = toggle<string>(p.loads ?? ["both"], v, on);
            if (next.length) p.loads = next as NonNullable<ProtocolDoc["loads"]>;
          })
        }
      />
      <Ticks
        words="Held in every run"
        choices={Object.entries(words.data?.held ?? {})}
        chosen={(own.held ?? []).map((h) => h.what)}
        onChange={(v, on) =>
          set("held", (p) => {
            p.held = on ? [...(p.held ?? []), { what: v }] : (p.held ?? []).filter((h) => h.what !== v);
          })
        }
      />
      <Ticks
        words="Cautions to be read before a start"
        choices={(words.data?.cautions ?? []).map((c) => [c, CAUTION_NAMES[c] ?? c])}
        chosen={own.cautions ?? []}
        onChange={(v, on) =>
          set("cautions", (p) => {
            p.cautions = toggle(p.cautions ?? [], v, on);
          })
        }
      />
      <Limits own={own} set={set} />
      <Criteria own={own} set={set} />
      <div className="flex flex-wrap items-end gap-3">
        <NumberField
          label="Microphone, m"
          low={0.05}
          high={20}
          digits={2}
          optional="none"
          value={own.microphone_m ?? null}
          onCommit={(v) =>
            set("microphone", (p) => {
              p.microphone_m = v;
            })
          }
        />
        <label className="flex items-center gap-2 pb-1">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={own.background ?? false}
            onChange={(e) =>
              set("background", (p) => {
                p.background = e.target.checked;
              })
            }
          />
          the room's own level before and after
        </label>
      </div>
      {templateChoice}
    </div>
  );
}

function Ticks(props: {
  words: string;
  choices: [string, string][];
  chosen: string[];
  onChange: (value: string, on: boolean) => void;
}) {
  return (
    <details>
      <summary className="cursor-pointer">
        {props.words} ({props.chosen.length})
      </summary>
      <div className="mt-1 flex flex-col gap-0.5">
        {props.choices.map(([value, words]) => (
          <label key={value} className="flex cursor-pointer items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={props.chosen.includes(value)}
              onChange={(e) => props.onChange(value, e.target.checked)}
            />
            {words}
          </label>
        ))}
      </div>
    </details>
  );
}

type Part = { own: ProtocolDoc; set: (label: string, change: (p: ProtocolDoc) => void) => void };

function Limits({ own, set }: Part) {
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

function Criteria({ own, set }: Part) {
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
