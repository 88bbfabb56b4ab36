import type { Place } from "@/shared/api/sounds";
import { num } from "@/shared/words/lists";

const W = 180;
const H = 120;
const BOX_M = 0.45;

/** The case and the microphone from the side, to scale as far as both fit. */
export function MicrophoneSketch({ place }: { place: Place }) {
  const distance = num(place.distance_m) || BOX_M;
  const high = place.height_m ?? BOX_M / 2;
  const above = place.side === "above";
  const behind = place.side === "rear";
  const widest = BOX_M + (above ? 0.2 : distance) + 0.3;
  const tallest = Math.max(BOX_M + (above ? distance : 0), high) + 0.25;
  const scale = Math.min((W - 16) / widest, (H - 20) / tallest);
  const floor = H - 12;
  const box = { x: behind ? W - 8 - BOX_M * scale : 8, w: BOX_M * scale, h: BOX_M * scale };
  const from = behind ? box.x : box.x + box.w;
  const mx = above ? box.x + box.w / 2 : behind ? from - distance * scale : from + distance * scale;
  const my = above ? floor - (BOX_M + distance) * scale : floor - high * scale;
  const words = `Microphone ${distance} m ${place.side || "away"}${place.height_m === null ? "" : `, ${place.height_m} m high`}`;
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="h-auto w-full max-w-48" role="img" aria-label={words} data-microphone={place.side}>
      <line x1="0" x2={W} y1={floor} y2={floor} stroke="currentColor" strokeOpacity="0.5" />
      <rect x={box.x} y={floor - box.h} width={box.w} height={box.h} fill="none" stroke="currentColor" strokeWidth="1.5" />
      <line x1={above ? mx : from} x2={mx} y1={above ? floor - box.h : my} y2={my} stroke="currentColor" strokeDasharray="3 3" />
      {!above && <line x1={mx} x2={mx} y1={my} y2={floor} stroke="currentColor" strokeOpacity="0.4" />}
      <circle cx={mx} cy={my} r="4" fill="var(--color-accent)" />
      <text x={(from + mx) / 2} y={Math.max(my - 6, 10)} textAnchor="middle" className="fill-current text-tiny">
        {place.distance_m === null ? "? m" : `${place.distance_m} m`}
      </text>
      <text x={box.x + box.w / 2} y={floor - 4} textAnchor="middle" className="fill-current text-tiny opacity-70">
        {place.side === "window" ? "window side" : place.side === "rear" ? "front … rear" : "front →"}
      </text>
    </svg>
  );
}
