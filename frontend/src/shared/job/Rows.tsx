import type { ReactNode } from "react";
import type { JobDoc } from "../api/client";
import { Button } from "../ui/bits";
import { freeId } from "./edits";
import { DocField, type FieldSpec, type Path, readAt, writeAt } from "./fields";
import { useJob } from "./store";

type Row = { id: string; name?: string; kind?: string } & Record<string, unknown>;

type Props = {
  path: Path;
  one: string;
  stem: string;
  numbered?: boolean;
  fresh: (id: string) => Record<string, unknown>;
  fields: FieldSpec[];
  title?: (row: Row) => string;
  inside?: (at: Path, row: Row) => ReactNode;
  onFocus?: () => void;
  onRemove?: (d: JobDoc, id: string) => void;
};

/** A list of like things of the document: each with its figures, one can be added and each taken off. */
export function Rows({ path, one, stem, numbered = true, fresh, fields, title, inside, onFocus, onRemove }: Props) {
  const { document, edit } = useJob();
  const rows = (readAt(document, path) ?? []) as Row[];
  const name = (row: Row) => title?.(row) ?? row.id;
  const add = () => {
    const id = freeId(
      rows.map((r) => r.id),
      stem,
      numbered,
    );
    edit(`add ${one}`, (d) => writeAt(d, path, [...((readAt(d, path) ?? []) as Row[]), { id, ...fresh(id) }]));
  };
  return (
    <div className="flex flex-col gap-2" onFocus={onFocus} data-rows={path.join(".")}>
      {rows.map((row, i) => (
        <div key={row.id} className="flex flex-col gap-2 rounded-box border hairline p-2.5" data-row={row.id}>
          <div className="flex flex-wrap items-end gap-3">
            <strong className="pb-1 text-body">{name(row)}</strong>
            {fields
              .filter((f) => !f.only || f.only.includes(String(row.kind)))
              .map((f) => (
                <DocField key={f.name} spec={f} path={[...path, i]} />
              ))}
            <span className="ml-auto">
              <Button
                small
                onClick={() =>
                  edit(`remove ${name(row)}`, (d) => {
                    const kept = ((readAt(d, path) ?? []) as Row[]).filter((r) => r.id !== row.id);
                    writeAt(d, path, kept);
                    onRemove?.(d, row.id);
                  })
                }
              >
                remove
              </Button>
            </span>
          </div>
          {inside?.([...path, i], row)}
        </div>
      ))}
      <div>
        <Button small onClick={add}>
          Add {one}
        </Button>
      </div>
    </div>
  );
}
