import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import { type Conversions, conversions, type System } from "./convert";

export type Scale = "over" | "absolute";
export type { Kind, System } from "./convert";

type Units = Conversions & {
  system: System;
  setSystem: (s: System) => void;
  scale: Scale;
  setScale: (s: Scale) => void;
};

const UnitsContext = createContext<Units | null>(null);

export function useUnits(): Units {
  const units = useContext(UnitsContext);
  if (!units) throw new Error("useUnits outside of UnitsProvider");
  return units;
}

const remembered = <T extends string>(key: string, fallback: T) => (localStorage.getItem(key) as T | null) ?? fallback;

/** The only place where units are converted; everything stored and sent stays metric. */
export function UnitsProvider({ children }: { children: ReactNode }) {
  const [system, keepSystem] = useState<System>(() => remembered("oventa-units", "metric"));
  const [scale, keepScale] = useState<Scale>(() => remembered("oventa-scale", "over"));
  const value = useMemo<Units>(() => {
    return {
      system,
      setSystem: (s) => {
        localStorage.setItem("oventa-units", s);
        keepSystem(s);
      },
      scale,
      setScale: (s) => {
        localStorage.setItem("oventa-scale", s);
        keepScale(s);
      },
      ...conversions(system),
    };
  }, [system, scale]);
  return <UnitsContext value={value}>{children}</UnitsContext>;
}
