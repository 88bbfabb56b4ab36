import type { FanPlace, LayoutDoc, LayoutForecast, MountDoc } from "@/shared/api/client";
import { changeFan, curveChoices, fansAt, flip, layerOf, putFan, takeOut, usualWay } from "@/shared/job/edits";
import { useJob } from "@/shared/job/store";
import { Button, Select } from "@/shared/ui/bits";
import { Caution } from "@/shared/ui/Caution";
import { Term } from "@/shared/ui/Term";
import { useUnits } from "@/shared/units/units";
import { has } from "@/shared/words/lists";
import { CAUTIONS, usual } from "@/shared/words/words";
import { DirectionGuide } from "./DirectionGuide";
import { FanAtWork } from "./FanAtWork";

type Props = {
  layout: LayoutDoc;
  mount: MountDoc | undefined;
  forecast: LayoutForecast | undefined;
  moving: boolean;
  onMove: (layer: "outer" | "inner") => void;
  onLayer: (layer: "outer" | "inner") => void;
};

/** The tray under the drawing: what stands on the chosen mount, and what can be done with it. */
export function MountTray({ layout, mount, forecast, moving, onMove, onLayer }: Props) {
  if (!mount)
    return (
      <p className="text-small">
        Click a mount in the drawing, or press Tab and walk with the arrow keys, to put, turn, move or take out a fan. Cooler,
        card, panels and supply are set by clicking them.
      </p>
    );
  const fans = fansAt(layout, mount.id);
  return (
    <section className="flex flex-col gap-2" aria-label={`Mount ${mount.id.toUpperCase()}`}>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1.5">
        {moving && <strong role="status">Now click the mount to move it to, or walk there and press Enter. Esc lets go.</strong>}
        {!fans.length && <Putter layout={layout} mount={mount} inner={false} words="Put a fan" />}
        {fans.map((f) => (
          <FanRow
            key={layerOf(f)}
            layout={layout}
            mount={mount}
            fan={f}
            layered={fans.length > 1}
            onMove={onMove}
            onLayer={onLayer}
            forecast={forecast}
          />
        ))}
        {fans.length === 1 && (
          <Putter layout={layout} mount={mount} inner={layerOf(fans[0] as FanPlace) === "outer"} words="Second layer" />
        )}
      </div>
      {fans.length > 0 && <Caution more={CAUTIONS.fanMore}>{CAUTIONS.fan}</Caution>}
    </section>
  );
}

/** The chosen mount by its name, and what may stand there. */
export function MountTitle({ mount }: { mount: MountDoc }) {
  const units = useUnits();
  const sizes = mount.sizes_mm.map((s) => units.text("length", s)).join(", ");
  return (
    <p>
      <strong className="wide text-lead">{mount.id.toUpperCase()}</strong>{" "}
      <span className="text-faint">
        {mount.face}, takes {sizes} {units.unit("length")}
      </span>{" "}
      <DirectionGuide words="which way does it blow?" />{" "}
      <span className="text-faint">
        <Term t="intake">in, out</Term>
      </span>
    </p>
  );
}

function Putter({ layout, mount, inner, words }: { layout: LayoutDoc; mount: MountDoc; inner: boolean; words: string }) {
  const { document, edit } = useJob();
  const fits = (document.parts?.fans ?? []).filter((f) => mount.sizes_mm.includes(f.size_mm));
  if (!fits.length) return <span className="text-small text-faint">No fan on hand fits here; add one in Parts.</span>;
  const put = (fan: string) =>
    fan &&
    edit(`put a fan at ${mount.id.toUpperCase()}`, (d) => putFan(d, layout.id, mount.id, fan, usualWay(mount.face), inner));
  return (
    <Select
      label={words}
      compact
      value=""
      empty={`${words} …`}
      choices={fits.map((f) => ({ value: f.id, words: f.name || f.id }))}
      onChange={put}
    />
  );
}

function FanRow(props: {
  layout: LayoutDoc;
  mount: MountDoc;
  fan: FanPlace;
  layered: boolean;
  forecast: LayoutForecast | undefined;
  onMove: (layer: "outer" | "inner") => void;
  onLayer: (layer: "outer" | "inner") => void;
}) {
  const { document, edit } = useJob();
  const units = useUnits();
  const { layout, mount, fan } = props;
  const layer = layerOf(fan);
  const name = mount.id.toUpperCase();
  const change = (label: string, step: (f: FanPlace) => void) =>
    edit(label, (d) => changeFan(d, layout.id, mount.id, layer, step));
  const fits = (document.parts?.fans ?? []).filter((f) => mount.sizes_mm.includes(f.size_mm) || f.id === fan.fan);
  const own = props.forecast?.fans.find((f) => f.mount === mount.id && f.layer === layer);
  return (
    <div className={props.layered ? "flex flex-wrap items-center gap-2" : "contents"} onFocus={() => props.onLayer(layer)}>
      {props.layered && (
        <span className="text-small text-faint">
          <Term t="push">{layer}</Term>:
        </span>
      )}
      <Select
        label={`Fan at ${name}`}
        compact
        value={fan.fan}
        choices={fits.map((f) => ({ value: f.id, words: f.name || f.id }))}
        onChange={(id) =>
          change(`other fan at ${name}`, (f) => {
            f.fan = id;
          })
        }
      />
      <button
        type="button"
        className={`btn btn-sm ${fan.direction === "intake" ? "border-pine text-pine" : "border-copper text-copper"}`}
        onClick={() => change(`flip ${name}`, flip)}
      >
        {fan.direction === "intake" ? "» blows in" : "⌂ blows out"} · turn round
      </button>
      <label className="flex items-center gap-2 text-small">
        <input
          type="range"
          className="range range-xs w-20"
          min={0}
          max={100}
          step={5}
          aria-label={`Speed of the fan at ${name} in %`}
          disabled={Boolean(fan.curve || fan.group)}
          title={fan.group ? "Its group sets its speed" : fan.curve ? "Its curve sets its speed" : undefined}
          value={fan.speed_pct ?? usual("layouts.*.fans.*.speed_pct")}
          onChange={(e) =>
            change(`speed at ${name}`, (f) => {
              f.speed_pct = Number(e.target.value);
            })
          }
        />
        <span className="w-22 font-mono text-small">
          {(fan.curve || fan.group) && own ? own.speed_pct.toFixed(0) : (fan.speed_pct ?? usual("layouts.*.fans.*.speed_pct"))} %{" "}
          {own && <span className="text-faint">{units.text("speed", own.speed_rpm)}</span>}
          {own?.turning === "off" && <strong className="ml-1">off at this load</strong>}
        </span>
      </label>
      {has(layout.groups) && (
        <Select
          label={`Group of the fan at ${name}`}
          compact
          value={fan.group ?? ""}
          empty="by itself"
          choices={(layout.groups ?? []).map((g) => ({ value: g.id, words: g.name || g.id }))}
          onChange={(id) =>
            change(id ? `${name} into ${id}` : `${name} by itself`, (f) => {
              f.group = id || null;
            })
          }
        />
      )}
      {has(document.curves) && !fan.group && (
        <Select
          label={`What the fan at ${name} follows`}
          compact
          value={fan.curve ?? ""}
          choices={curveChoices(document)}
          onChange={(id) =>
            change(id ? `${name} follows ${id}` : `fixed speed at ${name}`, (f) => {
              f.curve = id || null;
            })
          }
        />
      )}
      <Button
        small
        onClick={() =>
          change(fan.state === "unplugged" ? `plug in ${name}` : `unplug ${name}`, (f) => {
            f.state = f.state === "unplugged" ? "running" : "unplugged";
          })
        }
      >
        {fan.state === "unplugged" ? "plug in" : "unplug"}
      </Button>
      <Button small onClick={() => props.onMove(layer)}>
        move
      </Button>
      <Button small onClick={() => edit(`take the fan out of ${name}`, (d) => takeOut(d, layout.id, mount.id, layer))}>
        take out
      </Button>
      {fan.state !== "unplugged" && <FanAtWork mount={mount.id} layer={layer} fan={fan.fan} />}
    </div>
  );
}
