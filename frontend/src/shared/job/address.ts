import { useNavigate, useSearch } from "@tanstack/react-router";
import { useCallback } from "react";

/**
 * What is shown stands in the address, so that a reload and a link show the same. A value that is not known, as from an old or a cut
 * link, is the usual one; the usual one is not written.
 */
export function useInAddress<T extends string>(name: string, usual: T, known?: readonly T[]): [T, (value: T) => void] {
  const said = useSearch({ strict: false, select: (search: Record<string, unknown>) => search[name] });
  const navigate = useNavigate();
  const words = typeof said === "number" ? String(said) : said;
  const value = typeof words === "string" && (!known || known.includes(words as T)) ? (words as T) : usual;
  const set = useCallback(
    (next: T) => {
      const search = (before: Record<string, unknown>) => ({ ...before, [name]: next === usual ? undefined : next });
      navigate({ to: ".", search: search as never, replace: true });
    },
    [navigate, name, usual],
  );
  return [value, set];
}
