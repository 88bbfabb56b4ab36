import { memo, useDeferredValue } from "react";
import type { Drawn } from "./streams";

const COLOUR = { in: "var(--pine)", cool: "var(--pine)", out: "var(--copper)", warm: "var(--copper)" } as const;
const OPACITY = { in: 0.34, out: 0.42, cool: 0.2, warm: 0.22 } as const;

/** Moving air: width follows flow, pace follows speed, every stream carries the id of its link. */
export const Streams = memo(function Streams({ streams, u }: { streams: Drawn[]; u: number }) {
  const late = useDeferredValue(streams); // figures and widths first, moving marks a frame later
  return (
    <g aria-hidden="true" pointerEvents="none">
      {streams.map((s) => (
        <path
          key={s.id}
          d={s.path}
          data-link={s.id}
          data-flow={s.flow}
          data-pace={s.pace}
          fill="none"
          stroke={COLOUR[s.tone]}
          strokeOpacity={OPACITY[s.tone]}
          strokeWidth={s.width}
          strokeLinecap="round"
        />
      ))}
      <MovingMarks streams={late} u={u} />
    </g>
  );
});

const MovingMarks = memo(function MovingMarks({ streams, u }: { streams: Drawn[]; u: number }) {
  return (
    <g className="moving">
      {streams
        .filter((s) => s.pace > 2 && s.flow > (s.tone === "cool" || s.tone === "warm" ? 8 : 4))
        .map((s) => (
          <Marks key={`${s.id} ${s.path} ${Math.round(Math.log(s.pace) * 12)}`} stream={s} u={u} />
        ))}
    </g>
  );
});

/** Chevrons for air going in, house-shaped arrows for air coming out, moving along the path. */
function Marks({ stream, u }: { stream: Drawn; u: number }) {
  const seconds = Math.min(Math.max(stream.length / stream.pace, 0.6), 30);
  const count = Math.max(1, Math.round(stream.length / (130 * u)));
  const size = Math.min(Math.max(stream.width * 0.3, 2.6 * u), 6 * u);
  const outward = stream.tone === "out" || stream.tone === "warm";
  return Array.from({ length: count }, (_, i) => (
    <path
      // biome-ignore lint/suspicious/noArrayIndexKey: marks of one stream differ by nothing but their place
      key={i}
      d={
        outward
          ? `M${-size} ${-size * 0.8}H${size * 0.3}L${size} 0L${size * 0.3} ${size * 0.8}H${-size}Z`
          : `M${-size} ${-size}L0 0L${-size} ${size}M0 ${-size}L${size} 0L0 ${size}`
      }
      fill={outward ? COLOUR[stream.tone] : "none"}
      stroke={COLOUR[stream.tone]}
      strokeWidth={outward ? 0 : 1.5 * u}
      opacity={stream.tone === "cool" || stream.tone === "warm" ? 0.6 : 0.95}
    >
      <animateMotion
        dur={`${seconds}s`}
        begin={`${(-seconds * i) / count}s`}
        repeatCount="indefinite"
        rotate="auto"
        path={stream.path}
      />
    </path>
  ));
}
