import { useEffect, useMemo, useRef, useState } from "react";
import uPlot from "uplot";
import { num } from "@/shared/words/lists";
import { ENDS } from "@/shared/words/words";
import "uplot/dist/uPlot.min.css";
import type { Schemas } from "../api/client";
import { Twin } from "./Figure";

type Props = {
  trace: Schemas["TraceOut"];
  channels: { name: string; words: string }[];
  window: [number, number] | null;
  unit: string;
  shown: (celsius: number) => number;
  /** Stretches that happened: shaded and hatched apart from the averaging window. */
  marks?: { from_s: number; to_s: number; words: string; dropped: boolean }[];
  /** Where each channel is going, with its 95 % band either way; drawn up to `until_s` where it counts as a figure. */
  ends?: { name: string; value: number; band: number }[];
  until_s?: number;
  /** A stretch was drawn out with the pointer, or null to see all of it again. */
  onZoom?: (stretch: [number, number] | null) => void;
};

const STROKES = [
  "--color-accent",
  "--color-base-content",
  "--color-info",
  "--color-warning",
  "--color-secondary",
  "--color-error",
];
const DASHES: (number[] | undefined)[] = [undefined, [7, 3], [2, 3], [10, 3, 2, 3], [4, 4], [1, 4]];
const ink = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Readings over time with the averaging window shaded. Lines differ by dash as well as by colour. */
export function Trace({ trace, channels, window: mean, unit, shown, marks, ends, until_s, onZoom }: Props) {
  const known = useMemo(
    () => (ends ?? []).filter((e) => e.band <= ENDS.most_band_k && channels.some((c) => c.name === e.name)),
    [ends, channels],
  );
  const box = useRef<HTMLDivElement>(null);
  const [theme, setTheme] = useState(0);
  useEffect(() => {
    const again = () => setTheme((t) => t + 1);
    addEventListener("oventa-theme", again);
    return () => removeEventListener("oventa-theme", again);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: theme only asks for a new drawing with the new colours
  useEffect(() => {
    const holder = box.current;
    if (!holder) return;
    const columns = channels.map(
      (c) => trace.channels.find((t) => t.name === c.name)?.values.map((v) => (v === null ? null : shown(v))) ?? [],
    );
    const shade = (u: uPlot) => {
      if (!mean) return;
      const left = u.valToPos(mean[0] / 60, "x", true);
      const right = u.valToPos(mean[1] / 60, "x", true);
      u.ctx.save();
      u.ctx.fillStyle = `color-mix(in srgb, ${ink("--color-accent")} 14%, transparent)`;
      u.ctx.fillRect(left, u.bbox.top, right - left, u.bbox.height);
      u.ctx.restore();
    };
    const happened = (u: uPlot) => {
      const ratio = devicePixelRatio || 1;
      u.ctx.save();
      u.ctx.font = `${11 * ratio}px Archivo Variable`;
      u.ctx.textAlign = "left"; // the axes leave another
      let free = 0; // where the words of the mark before end
      let lift = 0;
      for (const m of marks ?? []) {
        const left = u.valToPos(m.from_s / 60, "x", true);
        const right = Math.max(u.valToPos(m.to_s / 60, "x", true), left + 2 * ratio);
        if (right < u.bbox.left || left > u.bbox.left + u.bbox.width) continue;
        const foot = u.bbox.top + u.bbox.height;
        if (m.dropped) {
          u.ctx.fillStyle = `color-mix(in srgb, ${ink("--color-warning")} 22%, transparent)`;
          u.ctx.fillRect(left, u.bbox.top, right - left, u.bbox.height);
        }
        u.ctx.fillStyle = ink("--color-warning");
        u.ctx.beginPath();
        u.ctx.moveTo(left, foot - 11 * ratio);
        u.ctx.lineTo(left + 6 * ratio, foot - 1);
        u.ctx.lineTo(left - 6 * ratio, foot - 1);
        u.ctx.fill();
        u.ctx.fillStyle = ink("--color-base-content");
        const wide = u.ctx.measureText(m.words).width;
        const start = Math.min(left + 8 * ratio, u.bbox.left + u.bbox.width - wide - 2 * ratio);
        lift = start < free ? (lift + 13) % 52 : 0;
        free = Math.max(free, start + wide + 6 * ratio);
        u.ctx.fillText(m.words, start, foot - (3 + lift) * ratio);
      }
      u.ctx.restore();
    };
    const goals = (u: uPlot) => {
      const last = num(trace.elapsed_s.at(-1));
      if (!until_s || until_s <= last) return;
      const left = u.valToPos(last / 60, "x", true);
      const right = u.bbox.left + u.bbox.width;
      u.ctx.save();
      for (const e of known) {
        const at = channels.findIndex((c) => c.name === e.name);
        const top = u.valToPos(shown(e.value + e.band), "y", true);
        const foot = u.valToPos(shown(e.value - e.band), "y", true);
        u.ctx.fillStyle = `color-mix(in srgb, ${ink(STROKES[at % STROKES.length] ?? "")} 28%, transparent)`;
        u.ctx.fillRect(left, top, right - left, Math.max(foot - top, 2));
      }
      u.ctx.restore();
    };
    const axis = {
      stroke: () => ink("--color-base-content"),
      grid: { stroke: () => ink("--color-base-300"), width: 1 },
      ticks: { show: false },
      font: "12px Archivo Variable",
      labelFont: "12px Archivo Variable",
    };
    const plot = new uPlot(
      {
        width: holder.clientWidth,
        height: holder.clientHeight,
        legend: { show: false },
        scales: {
          x: { time: false, range: until_s && !onZoom ? [0, until_s / 60] : undefined },
          y: {
            range: (_, low, high) => {
              if (low === null || high === null) return [low, high];
              const all = known.flatMap((e) => [shown(e.value - e.band), shown(e.value + e.band)]);
              return uPlot.rangeNum(Math.min(low, ...all), Math.max(high, ...all), 0.1, true);
            },
          },
        },
        cursor: { drag: { x: Boolean(onZoom), y: false, setScale: !onZoom } },
        axes: [
          { ...axis, label: "minutes", labelSize: 14, labelGap: 0, size: 24, gap: 3 },
          { ...axis, label: unit, labelSize: 14, labelGap: 0, size: 36 },
        ],
        series: [
          {},
          ...channels.map((c, i) => ({
            label: c.words,
            stroke: () => ink(STROKES[i % STROKES.length] ?? ""),
            width: 1.6,
            dash: DASHES[i % DASHES.length],
          })),
        ],
        hooks: {
          drawClear: [shade, goals],
          draw: [happened],
          setSelect: [
            (u) => {
              if (!onZoom || u.select.width < 6) return;
              onZoom([60 * u.posToVal(u.select.left, "x"), 60 * u.posToVal(u.select.left + u.select.width, "x")]);
              u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
            },
          ],
        },
      },
      [trace.elapsed_s.map((s) => s / 60), ...columns] as uPlot.AlignedData,
      holder,
    );
    const watch = new ResizeObserver(() => plot.setSize({ width: holder.clientWidth, height: holder.clientHeight }));
    watch.observe(holder);
    return () => {
      watch.disconnect();
      plot.destroy();
    };
  }, [trace, channels, mean, unit, shown, theme, marks, known, until_s, onZoom]);
  return (
    <figure className="flex h-full flex-col">
      <figcaption className="flex flex-wrap gap-x-4 text-small">
        {channels.map((c, i) => (
          <span key={c.name} className="flex items-center gap-1.5">
            <svg width="26" height="6" aria-hidden="true">
              <line
                x1="0"
                x2="26"
                y1="3"
                y2="3"
                stroke={`var(${STROKES[i % STROKES.length]})`}
                strokeWidth="2.200"
                strokeDasharray={DASHES[i % DASHES.length]?.join(" ")}
              />
            </svg>
            {c.words}
          </span>
        ))}
        {until_s && known.length > 0 && <span className="text-faint">pale: where each is going, 95 %</span>}
        {mean && <span className="text-faint">shaded: the averaging window</span>}
      </figcaption>
      <div ref={box} className="min-h-0 flex-1" onDoubleClick={() => onZoom?.(null)} />
      <Twin table={tableOf(trace, channels, unit, shown)} />
    </figure>
  );
}

const MOST_ROWS = 60;

/** The readings that are drawn, thinned to what can be read. */
function tableOf(trace: Props["trace"], channels: Props["channels"], unit: string, shown: Props["shown"]) {
  const every = Math.max(1, Math.ceil(trace.elapsed_s.length / MOST_ROWS));
  const columns = channels.map((c) => trace.channels.find((x) => x.name === c.name)?.values ?? []);
  const text = (v: number | null | undefined) => (v === null || v === undefined ? "–" : shown(v).toFixed(1));
  return {
    head: ["minutes", ...channels.map((c) => `${c.words}, ${unit}`)],
    rows: trace.elapsed_s
      .map((s, i) => [(s / 60).toFixed(1), ...columns.map((values) => text(values[i]))])
      .filter((_, i) => i % every === 0),
  };
}
