import type { LayoutDoc, Schemas } from "@/shared/api/client";
import { useSheet } from "@/shared/api/hooks";
import { fansAt, layerOf, layoutOf } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { useWorkbench } from "@/shared/job/workbench";
import { Button, Head } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { Said } from "@/shared/units/Said";
import { CAUTIONS } from "@/shared/words/words";
import { DirectionGuide } from "./DirectionGuide";

type Seen = Schemas["SeenDoc"];

/** The machine as it stands, mount by mount, against the layout it was meant to have. */
export function FoundPanel({ layout, onMark }: { layout: LayoutDoc; onMark: (mount: string | null) => void }) {
  const { document, edit } = useJob();
  const { conditions } = useWorkbench();
  const { data } = useSheet({ document, layout: layout.id, conditions });
  const seen = layout.as_found ?? [];
  const places = (document.case.mounts ?? []).flatMap((m) => {
    const layers = new Set(fansAt(layout, m.id).map(layerOf));
    for (const s of seen) if (s.mount === m.id) layers.add(s.layer ?? "outer");
    if (!layers.size) layers.add("outer");
    return [...layers].map((layer) => ({ mount: m.id, layer }));
  });
  const set = (change: (x: LayoutDoc) => void) =>
    edit(`as found in ${layout.id}`, (d) => {
      const own = layoutOf(d, layout.id);
      if (own) change(own);
    });
  const asMeant = () =>
    set((x) => {
      x.as_found = (layout.fans ?? []).map((f) => ({
        mount: f.mount,
        ...(layerOf(f) === "inner" ? { layer: "inner" as const } : {}),
        direction: f.direction,
        plugged: f.state !== "unplugged",
        turning: f.state !== "unplugged",
      }));
    });
  return (
    <section className="flex flex-col gap-3 text-small" data-found={data?.as_found.length ?? "waiting"}>
      <Head remark={!seen.length ? "not looked at yet" : data ? `${data.as_found.length} to put right` : "being worked out"}>
        As found
      </Head>
      {!seen.length && (
        <p>
          Go round the machine as it stands and say what you see. <DirectionGuide words="How to tell which way a fan blows" />
        </p>
      )}
      {seen.length > 0 && (
        <ul className="flex flex-col gap-1.5">
          {data?.as_found.map((d) => (
            <li
              key={d.code + d.mount + d.layer}
              className="rounded-md border border-warning/50 px-2 py-1"
              data-deviation={d.code}
              onPointerEnter={() => onMark(d.mount)}
              onPointerLeave={() => onMark(null)}
            >
              <strong>
                <Said text={d.what} />.
              </strong>{" "}
              <Said text={d.do} />
            </li>
          ))}
          {data?.as_found.length === 0 && <li>Everything is as the layout means it.</li>}
        </ul>
      )}
      <div className="flex gap-2">
        <Button small onClick={asMeant}>
          {seen.length ? "all as meant" : "Start: all as meant"}
        </Button>
        {seen.length > 0 && (
          <Button
            small
            onClick={() =>
              set((x) => {
                x.as_found = [];
              })
            }
          >
            forget it
          </Button>
        )}
      </div>
      {seen.length > 0 && (
        <>
          <table className="w-full">
            <thead className="text-left text-faint">
              <tr>
                <th className="pr-2 font-normal">mount</th>
                <th className="font-normal">blows</th>
                <th className="font-normal">lead</th>
                <th className="font-normal">filter</th>
              </tr>
            </thead>
            <tbody>
              {places.map((p) => (
                <Row key={p.mount + p.layer} {...p} seen={seen} set={set} />
              ))}
            </tbody>
          </table>
          <DirectionGuide words="Which way does it blow?" />
          <Caution>{CAUTIONS.fan}</Caution>
        </>
      )}
    </section>
  );
}

const WAYS = [
  ["", "unseen"],
  ["none", "no fan"],
  ["intake", "in"],
  ["exhaust", "out"],
] as const;

function Row(props: { mount: string; layer: "outer" | "inner"; seen: Seen[]; set: (change: (x: LayoutDoc) => void) => void }) {
  const { mount, layer, seen, set } = props;
  const own = seen.find((s) => s.mount === mount && (s.layer ?? "outer") === layer);
  const name = mount.toUpperCase();
  const put = (change: Partial<Seen> | null) =>
    set((x) => {
      const rest = (x.as_found ?? []).filter((s) => !(s.mount === mount && (s.layer ?? "outer") === layer));
      const fresh = { plugged: true, turning: true, ...(own ?? {}), mount, ...(layer === "inner" ? { layer } : {}), ...change };
      x.as_found = change ? [...rest, fresh as Seen] : rest;
    });
  const way = own ? (own.direction ?? "none") : "";
  return (
    <tr className="border-t hairline" data-seen={mount}>
      <td className="py-1">
        {name}
        {layer === "inner" ? ", inner" : ""}
      </td>
      <td>
        <select
          aria-label={`${name} blows`}
          className="select select-xs w-20"
          value={way}
          onChange={(e) => {
            const v = e.target.value;
            put(v === "" ? null : { direction: v === "none" ? null : (v as Seen["direction"]) });
          }}
        >
          {WAYS.map(([v, words]) => (
            <option key={v} value={v}>
              {words}
            </option>
          ))}
        </select>
      </td>
      <td>
        {own?.direction && (
          <select
            aria-label={`Lead of ${name}`}
            className="select select-xs w-[5.6rem]"
            value={own.plugged === false ? "out" : own.turning === false ? "still" : "turns"}
            onChange={(e) => put({ plugged: e.target.value !== "out", turning: e.target.value === "turns" })}
          >
            <option value="turns">turns</option>
            <option value="still">still</option>
            <option value="out">unplugged</option>
          </select>
        )}
      </td>
      <td>
        {own && (
          <select
            aria-label={`Filter at ${name}`}
            className="select select-xs w-20"
            value={own.filter ?? "none"}
            onChange={(e) => put({ filter: e.target.value as Seen["filter"] })}
          >
            {["none", "clean", "dusty", "missing"].map((f) => (
              <option key={f}>{f}</option>
            ))}
          </select>
        )}
      </td>
    </tr>
  );
}
