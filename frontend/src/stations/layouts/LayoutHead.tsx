import type { LayoutDoc } from "@/shared/api/client";
import { useLineage } from "@/shared/api/hooks";
import { layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Caution } from "@/shared/ui/Caution";
import { num } from "@/shared/words/lists";
import { CAUTIONS } from "@/shared/words/words";

/** Name of the layout, where it comes from, and what is unusual about it. */
export function LayoutHead({ layout }: { layout: LayoutDoc }) {
  const { edit } = useJob();
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
        <h1 className="flex max-w-full min-w-0 items-baseline gap-2 text-title">
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
      </div>
      {layout.parent && <Lineage layout={layout} />}
      {layout.open_bench && <p className="text-small">On the open bench: no walls, the zero line to hold the others against.</p>}
      {made.length > 0 && (
        <div className="mt-2 flex flex-col gap-1 text-small">
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
    <p className="text-small text-faint" data-lineage={data.lines.length}>
      from {data.parent}: {data.lines.length ? data.lines.join("; ") : "nothing changed yet"}
    </p>
  );
}
