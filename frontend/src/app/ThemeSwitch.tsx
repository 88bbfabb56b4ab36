import { useEffect, useState } from "react";

type Theme = "daybench" | "nightbench";
const STORE = "oventa-theme";
const preferred = (): Theme =>
  (localStorage.getItem(STORE) as Theme | null) ??
  (matchMedia("(prefers-color-scheme: dark)").matches ? "nightbench" : "daybench");

/** Day or night; remembered on this machine. */
export function ThemeSwitch() {
  const [theme, setTheme] = useState<Theme>(preferred);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
    window.dispatchEvent(new Event("oventa-theme"));
  }, [theme]);
  const other: Theme = theme === "daybench" ? "nightbench" : "daybench";
  return (
    <button
      type="button"
      className="cursor-pointer text-small underline decoration-1 underline-offset-2"
      onClick={() => {
        localStorage.setItem(STORE, other);
        setTheme(other);
      }}
    >
      {theme === "daybench" ? "night bench" : "day bench"}
    </button>
  );
}
