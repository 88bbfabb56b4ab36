import { type ReactNode, useRef, useState } from "react";
import { saveCsv, savePng, saveSvg, type Table } from "./save";

/** A drawing with its title, its table twin, and its files. */
export function Figure({
  title,
  remark,
  name,
  table,
  children,
}: {
  title: string;
  remark?: ReactNode;
  name: string;
  table: Table;
  children: ReactNode;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [asTable, setAsTable] = useState(false);
  const svg = () => box.current?.querySelector("svg") ?? null;
  const drawn = (act: (name: string, svg: SVGSVGElement) => unknown) => () => {
    const found = svg();
    if (found) act(name, found);
  };
  return (
    <figure className="group flex min-w-0 flex-col gap-1" data-chart={name}>
      <figcaption className="flex items-baseline justify-between gap-3 border-b hairline pb-1">
        <h2 className="text-body">{title}</h2>
        <span className="text-fine text-faint">{remark}</span>
      </figcaption>
      {asTable ? <TwinTable table={table} /> : <div ref={box}>{children}</div>}
      <div className="no-print flex gap-3 text-fine text-faint">
        <button type="button" className="cursor-pointer underline" onClick={() => setAsTable(!asTable)}>
          {asTable ? "as a drawing" : "as a table"}
        </button>
        {!asTable && (
          <>
            <button type="button" className="cursor-pointer underline" onClick={drawn(saveSvg)}>
              SVG
            </button>
            <button type="button" className="cursor-pointer underline" onClick={drawn(savePng)}>
              PNG
            </button>
          </>
        )}
        <button type="button" className="cursor-pointer underline" onClick={() => saveCsv(name, table)}>
          CSV
        </button>
      </div>
    </figure>
  );
}

/** The figures of a drawing that stands without a frame of its own. */
export function Twin({ table, words = "as a table" }: { table: Table; words?: string }) {
  return (
    <details className="no-print text-fine text-faint" data-twin>
      <summary className="cursor-pointer">{words}</summary>
      <TwinTable table={table} />
    </details>
  );
}

function TwinTable({ table }: { table: Table }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full text-small">
        <thead>
          <tr className="text-left text-faint">
            {table.head.map((h) => (
              <th key={h} className="pr-3 font-normal">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row) => (
            <tr key={row.join("|")} className="border-t hairline">
              {row.map((value, i) => (
                <td key={table.head[i]} className={`py-0.5 pr-3 ${typeof value === "number" || i ? "font-mono" : ""}`}>
                  {value}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
