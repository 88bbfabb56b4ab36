import { useMemo } from "react";
import { num } from "@/shared/words/lists";
import { Frame } from "./Frame";
import { scaleOf } from "./scale";

const W = 640;
const H = 220;
const LEFT = 44;
const BOTTOM = 184;
const TOP = 10;
const NAMED = [63, 125, 250, 500, 1000, 2000, 4000, 8000];
const SPAN_DB = 45;
const PALE = [246, 241, 230];
const DEEP = [29, 43, 40];

/** Level by frequency over time: the darker, the louder; the loudest and what lies SPAN_DB under it are the ends. */
export function Spectrogram({ hz, rows, stepS, words }: { hz: number[]; rows: number[][]; stepS: number; words: string }) {
  const picture = useMemo(() => drawn(hz, rows), [hz, rows]);
  const seconds = rows.length * stepS;
  const low = Math.log(Math.max(num(hz[0]), 1));
  const high = Math.log(Math.max(num(hz.at(-1)), 2));
  const xs = scaleOf([0, seconds], LEFT, W, 1);
  const at = (t: number) => LEFT + (t / Math.max(seconds, 0.1)) * (W - LEFT);
  const y = (f: number) => BOTTOM - ((Math.log(f) - low) / (high - low)) * (BOTTOM - TOP);
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="h-auto w-full max-w-[720px]" role="img" aria-label={words}>
      <image href={picture} x={LEFT} y={TOP} width={W - LEFT} height={BOTTOM - TOP} preserveAspectRatio="none" />
      <Frame
        xs={{ ...xs, at, ticks: xs.ticks.filter((t) => t >= 0 && t <= seconds) }}
        ys={{ at: y, ticks: NAMED.filter((f) => f >= num(hz[0]) && f <= num(hz.at(-1))), low, high }}
        left={LEFT}
        right={W}
        top={TOP}
        bottom={BOTTOM}
        sayX={String}
        sayY={(f) => (f >= 1000 ? `${f / 1000}k` : String(f))}
      />
      <text x={W} y={H - 4} textAnchor="end" className="fill-current text-fine opacity-75">
        s; upwards Hz
      </text>
    </svg>
  );
}

function drawn(hz: number[], rows: number[][]): string {
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(rows.length, 1);
  canvas.height = Math.max(hz.length, 1);
  const brush = canvas.getContext("2d");
  if (!brush || !rows.length) return "";
  const image = brush.createImageData(canvas.width, canvas.height);
  const top = Math.max(...rows.map((r) => Math.max(...r)));
  rows.forEach((row, t) => {
    row.forEach((v, f) => {
      const share = Math.min(Math.max((v - top + SPAN_DB) / SPAN_DB, 0), 1);
      const i = 4 * ((canvas.height - 1 - f) * canvas.width + t);
      for (let c = 0; c < 3; c++) image.data[i + c] = (PALE[c] as number) + share * ((DEEP[c] as number) - (PALE[c] as number));
      image.data[i + 3] = 255;
    });
  });
  brush.putImageData(image, 0, 0);
  return canvas.toDataURL("image/png");
}
