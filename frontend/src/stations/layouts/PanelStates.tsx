import type { Face, LayoutDoc } from "@/shared/api/client";
import { useJob } from "@/shared/job/store";
import { Button, Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { CHOICES, USUAL, usual, within } from "@/shared/words/words";
import type { Change } from "./choices";

const STATES = CHOICES["panel_state.state"];
type PanelState = NonNullable<NonNullable<LayoutDoc["panels"]>[Face]>;

/** How each panel stands in a layout: on, off, away, at an angle, partly blocked, made by hand. */
export function PanelStates({ layout, change }: { layout: LayoutDoc; change: Change }) {
  const { document } = useJob();
  const faces = new Set<Face>([...(document.case.panels ?? []).map((p) => p.face), "window"]);
  const states = layout.panels ?? {};
  const set = (face: Face, next: Partial<PanelState>) =>
    change(`${face} panel in ${layout.id}`, (x) => {
      const panels = { ...(x.panels ?? {}) };
      const one = { ...(panels[face] ?? {}), ...next } as PanelState;
      if ((one.state ?? "fitted") === "fitted" && !one.blocked_pct && !one.improvised && !one.kind) delete panels[face];
      else panels[face] = one;
      x.panels = panels;
    });
  return (
    <div className="flex flex-wrap items-end gap-3">
      {[...faces].map((face) => {
        const own = states[face];
        return (
          <div key={face} className="flex items-end gap-1.5" data-panel={face}>
            <Select
              label={`${face} panel`}
              value={own?.state ?? "fitted"}
              choices={[...STATES]}
              onChange={(v) => {
                const state = v as PanelState["state"];
                set(face, {
                  state,
                  ...(v === "stood_off" ? { stand_off_mm: 10 } : {}),
                  ...(v === "angled" ? { angle_deg: 10 } : {}),
                });
              }}
            />
            {own?.state === "stood_off" && (
              <NumberField
                label={`${face} panel stands off by`}
                compact
                kind="length"
                {...within("layouts.*.panels.*.stand_off_mm")}
                value={own.stand_off_mm ?? USUAL.stand_off_mm}
                onCommit={(v) => set(face, { stand_off_mm: v ?? USUAL.stand_off_mm })}
              />
            )}
            {own?.state === "angled" && (
              <NumberField
                label={`${face} panel's angle in degrees`}
                compact
                digits={0}
                {...within("layouts.*.panels.*.angle_deg")}
                value={own.angle_deg ?? USUAL.angle_deg}
                onCommit={(v) => set(face, { angle_deg: v ?? USUAL.angle_deg })}
              />
            )}
            {own?.state !== "removed" && (
              <NumberField
                label={`${face}: blocked`}
                kind="share"
                {...within("layouts.*.panels.*.blocked_pct")}
                value={own?.blocked_pct ?? usual("layouts.*.panels.*.blocked_pct")}
                onCommit={(v) => set(face, { blocked_pct: v ?? usual("layouts.*.panels.*.blocked_pct") })}
              />
            )}
            {own && (
              <label className="flex items-center gap-1 pb-1.5 text-small">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={own.improvised ?? false}
                  onChange={(e) => set(face, { improvised: e.target.checked })}
                />
                improvised
              </label>
            )}
          </div>
        );
      })}
      {Object.keys(states).length > 0 && (
        <Button
          small
          onClick={() =>
            change(`all panels on in ${layout.id}`, (x) => {
              x.panels = {};
            })
          }
        >
          all panels on
        </Button>
      )}
    </div>
  );
}
