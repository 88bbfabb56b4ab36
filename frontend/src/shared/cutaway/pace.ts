import { type RefObject, useEffect } from "react";

/** Pictures of moving air in a second: enough to read which way it goes, at a third of what a screen's own pace would cost. */
const PER_SECOND = 16;
const STILL = "(prefers-reduced-motion: reduce)";

/**
 * Turns the drawing's moving marks on by hand. They stand while `held`, where a person asked for less motion, and while nobody
 * sees the page: the machine on the bench may be the one that draws this, and is not to be warmed by it.
 */
export function useMovingAir(svg: RefObject<SVGSVGElement | null>, held: boolean) {
  useEffect(() => {
    const root = svg.current;
    if (!root) return;
    root.pauseAnimations();
    if (held) return;
    const less = matchMedia(STILL);
    const timer = setInterval(() => {
      if (!document.hidden && !less.matches) root.setCurrentTime(root.getCurrentTime() + 1 / PER_SECOND);
    }, 1000 / PER_SECOND);
    return () => clearInterval(timer);
  }, [svg, held]);
}
