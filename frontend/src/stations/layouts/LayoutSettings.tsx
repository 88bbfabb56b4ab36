import { useState } from "react";
import type { LayoutDoc } from "@/shared/api/client";
import { useLineage } from "@/shared/api/hooks";
import { curveChoices, layoutOf, setting } from "@/shared/job/edits";
import { DocNumber, DocSelect } from "@/shared/job/fields";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { count, has, num } from "@/shared/words/lists";
import { CAUTIONS, USUAL } from "@/shared/words/words";
import { CARD_WAYS, type Change, DOWNDRAFT_WAYS, FAN_SIDES, TOWER_WAYS } from "./choices";
import { Groups, Notes } from "./LayoutNotes";
import { Loops } from "./Loops";
import { PanelStates } from "./PanelStates";
import { RadiatorFields } from "./RadiatorFields";

/** Name of the layout, and what it sets beside its fans: cooler, radiator, panels, card. */
export function LayoutSettings({ layout }: { layout: LayoutDoc }) {
  const { edit } = useJob();
  const [open, setOpen] = useState(false);
  const off = Object.entries(layout.panels ?? {}).filter(([, p]) => p?.state === "removed");
  const made = Object.entries(layout.panels ?? {}).filter(([, p]) => p?.improvised || num(p?.blocked_pct) > 0);
  const change = (label: string, step: (x: LayoutDoc) => void) =>
    edit(label, (d) => {
      const own = layoutOf(d, layout.id);
      if (own) step(own);
    });
  return (
    <header className="px-4 pt-2">
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <h1 className="flex max-w-full min-w-0 items-baseline gap-2 text-[19px]">
          {layout.id},
          <input
            aria-label="Name of the layout"
            className="w-[26rem] max-w-full min-w-0 flex-1 bg-transparent text-ellipsis"
            title={layout.name ?? ""}
            value={layout.name ?? ""}
            placeholder="name this layout"
            onChange={(e) =>
              change(`rename ${layout.id}`, (x) => {
                x.name = e.target.value;
              })
            }
          />
        </h1>
        <button
          type="button"
          className="cursor-pointer text-[13px] underline underline-offset-2"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {open ? "hide" : "cooler, loops, panels, groups, notes"}
        </button>
      </div>
      {layout.parent && <Lineage layout={layout} />}
      {open && <Fields layout={layout} change={change} />}
      {layout.open_bench && <p className="text-[13px]">On the open bench: no walls, the zero line to hold the others against.</p>}
      {made.length > 0 && (
        <div className="mt-2 flex flex-col gap-1 text-[13px]">
          <p>
            <strong>Improvised:</strong> {made.map(([face]) => `${face} panel`).join(", ")}. Every chart of this layout says so.
          </p>
          <Caution>{CAUTIONS.improvised}</Caution>
        </div>
      )}
      {off.length > 0 && (
        <div className="mt-2">
          <Caution>{CAUTIONS.panel}</Caution>
        </div>
      )}
    </header>
  );
}

/** What this layout was made from, and every thing done to it since. */
function Lineage({ layout }: { layout: LayoutDoc }) {
  const { document } = useJob();
  const { conditions } = useWorkbench();
  const { data } = useLineage({ document, layout: layout.id, conditions }, true);
  if (!data?.parent) return null;
  return (
    <p className="text-[13px] text-faint" data-lineage={data.lines.length}>
      from {data.parent}: {data.lines.length ? data.lines.join("; ") : "nothing changed yet"}
    </p>
  );
}

function Fields({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const parts = document.parts ?? {};
  const at = (document.layouts ?? []).findIndex((x) => x.id === layout.id);
  const path = (name: string) => ["layouts", at, name];
  const coolerId = setting(document, layout, "cooler") ?? "";
  const cooler = parts.coolers?.find((c) => c.id === coolerId);
  const curved = has(document.curves);
  return (
    <div className="my-2 flex max-h-72 flex-col gap-3 overflow-y-auto rounded-box border hairline bg-paper p-3">
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="Cooler"
          value={coolerId}
          choices={(parts.coolers ?? []).map((c) => ({ value: c.id, words: c.name || c.id }))}
          onChange={(v) =>
            change(`cooler of ${layout.id}`, (x) => {
              x.cooler = v;
              delete x.cooler_direction;
            })
          }
        />
        {layout.loops?.length ? null : cooler && (cooler.kind === "sealed" || cooler.kind === "open_loop") ? (
          <RadiatorFields layout={layout} change={change} />
        ) : (
          <>
            <DocSelect
              label="Cooler blows"
              path={path("cooler_direction")}
              fallback={cooler?.kind === "downdraft" ? "toward" : "rear"}
              choices={cooler?.kind === "downdraft" ? DOWNDRAFT_WAYS : TOWER_WAYS}
            />
            <DocNumber
              label="Cooler fan"
              path={path("cooler_fan_pct")}
              kind="share"
              fallback={document.base?.cooler_fan_pct ?? USUAL.base.cooler_fan_pct}
            />
            {cooler?.kind === "downdraft" && (
              <DocSelect label="Its fan sits" path={path("cooler_fan_side")} choices={FAN_SIDES} />
            )}
            {curved && (
              <DocSelect
                label="Cooler fan runs at"
                path={path("cooler_curve")}
                fallback={document.base?.cooler_curve ?? ""}
                choices={curveChoices(document)}
              />
            )}
            <DocNumber label="Its fan raised by" path={path("cooler_fan_lift_mm")} kind="length" />
          </>
        )}
        <DocSelect label="Card stands" path={path("card_orientation")} choices={CARD_WAYS} />
        <DocNumber
          label="Card fans"
          path={path("card_fan_pct")}
          kind="share"
          fallback={document.base?.card_fan_pct ?? USUAL.base.card_fan_pct}
        />
        {curved && (
          <DocSelect
            label="Card fans run at"
            path={path("card_curve")}
            fallback={document.base?.card_curve ?? ""}
            choices={curveChoices(document)}
          />
        )}
      </div>
      <div className="flex flex-wrap items-end gap-3">
        {(
          [
            ["board", "Board", parts.boards],
            ["memory", "Memory", parts.memory],
            ["supply", "Power supply", parts.supplies],
          ] as const
        ).map(
          ([name, words, list]) =>
            count(list) > 1 && (
              <DocSelect
                key={name}
                label={words}
                path={path(name)}
                fallback={document.base?.[name] ?? ""}
                choices={(list ?? []).map((p) => ({ value: p.id, words: p.name || p.id }))}
              />
            ),
        )}
      </div>
      <Loops layout={layout} change={change} />
      <PanelStates layout={layout} change={change} />
      <Groups at={at} />
      <Notes layout={layout} at={at} change={change} />
      {(cooler?.kind === "sealed" || layout.loops?.length) && <Caution>{CAUTIONS.cooler}</Caution>}
    </div>
  );
}
