import { useUnits } from "./units";

/** A sentence of the server's, its measures in the reader's units. */
export function Said({ text }: { text: string | null | undefined }) {
  return <>{useUnits().said(text ?? "")}</>;
}
