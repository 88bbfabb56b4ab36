import { useState } from "react";
import { type ProtocolDoc, useTemplates } from "@/shared/api/live";
import { freeId } from "@/shared/job/edits";
import { changeProtocol, latestProtocols, protocolKey, versionOf } from "@/shared/job/plan";
import { useJob } from "@/shared/job/store";
import { Segments, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { CHOICES, HELD, RUN_LOADS, STATISTICS, TICKED, type Ticked, usual, within } from "@/shared/words/words";
import { Criteria, Limits } from "./ProtocolLists";

const LENGTHS = [5, 10, 15, 20, 30, 60, 90];
/** One protocol, edited in place. A version that runs were made with stays; the change makes the next. */
export function ProtocolPanel({ used }: { used: Set<string> }) {
  const { document, edit } = useJob();
  const templates = useTemplates();
  const all = latestProtocols(document);
  const [name, setName] = useState("");
  const own = all.find((p) => p.id === name) ?? all.find((p) => p.id === document.plan?.protocol) ?? all[0];
  const set = (label: string, change: (p: ProtocolDoc) => void) =>
    own && edit(`protocol: ${label}`, (d) => changeProtocol(d, own.id, used, change));
  /** A setter of one field; a field without an empty choice is never given null. */
  const put = (field: keyof ProtocolDoc) => (value: unknown) =>
    set(String(field).replaceAll("_", " "), (p) => {
      (p as Record<string, unknown>)[field] = value;
    });
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
    <div className="flex flex-col gap-3 pt-2 text-small" data-protocol={protocolKey(own)}>
      {all.length > 1 && (
        <Select
          label="Protocol to edit"
          value={own.id}
          choices={all.map((p) => ({ value: p.id, words: p.name || p.id }))}
          onChange={setName}
        />
      )}
      <p>
        <strong>{own.name || own.id}</strong>, version {versionOf(own)}
        {locked ? (
          <span className="text-faint">; runs were made with it, so a change makes version {versionOf(own) + 1}</span>
        ) : (
          ""
        )}
      </p>
      <div>
        <span className="text-fine text-faint">At most, minutes</span>
        <div className="flex flex-wrap items-end gap-2">
          <Segments
            label="Length"
            value={String(own.minutes ?? usual("protocols.*.minutes"))}
            choices={LENGTHS.map((m) => ({ value: String(m), words: String(m) }))}
            onChange={(v) =>
              set("length", (p) => {
                p.minutes = Number(v);
              })
            }
          />
        </div>
      </div>
      <Segments label="Ends" value={own.end ?? "settled"} choices={CHOICES["protocol.end"]} onChange={put("end")} />
      <Segments label="Room" value={own.room ?? "logged"} choices={CHOICES["protocol.room"]} onChange={put("room")} />
      <div className="flex flex-wrap items-end gap-3">
        <Select label="Figure" value={own.statistic ?? "tail_mean"} choices={STATISTICS} onChange={put("statistic")} />
        <NumberField
          label="Window, s"
          {...within("protocols.*.window_s")}
          digits={0}
          value={own.window_s ?? usual("protocols.*.window_s")}
          onCommit={put("window_s")}
        />
        <NumberField
          label="At least, min"
          {...within("protocols.*.least_minutes")}
          digits={0}
          value={own.least_minutes ?? usual("protocols.*.least_minutes")}
          onCommit={put("least_minutes")}
        />
        <NumberField
          label="Cool down to, K over room"
          {...within("protocols.*.cool_down_k")}
          optional="no gate"
          value={own.cool_down_k ?? null}
          onCommit={put("cool_down_k")}
        />
        <NumberField
          label="Purge of a new loop, min"
          {...within("protocols.*.purge_minutes")}
          digits={0}
          value={own.purge_minutes ?? usual("protocols.*.purge_minutes")}
          onCommit={put("purge_minutes")}
        />
      </div>
      <Ticks
        words="Loads: one run of each per layout"
        choices={Object.entries(RUN_LOADS)}
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
        choices={Object.entries(HELD)}
        chosen={(own.held ?? []).map((h) => h.what)}
        onChange={(v, on) =>
          set("held", (p) => {
            p.held = on ? [...(p.held ?? []), { what: v }] : (p.held ?? []).filter((h) => h.what !== v);
          })
        }
      />
      <Ticks
        words="Cautions to be read before a start"
        choices={Object.keys(TICKED).map((c) => [c, (TICKED as Ticked)[c]?.name ?? c])}
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
          {...within("protocols.*.microphone_m")}
          digits={2}
          optional="none"
          value={own.microphone_m ?? null}
          onCommit={put("microphone_m")}
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
