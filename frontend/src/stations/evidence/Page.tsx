import { Fragment } from "react";

type Block = { kind: "head"; words: string } | { kind: "table"; rows: string[][] } | { kind: "words"; words: string };

/** A study's page as it is written: headings, tables, lines; nothing in it can be markup. */
export function Page({ text }: { text: string }) {
  return (
    <div className="mt-2 flex flex-col gap-2 overflow-x-auto rounded-box border hairline bg-paper p-3">
      {blocks(text).map((b, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: blocks of a page never change places
        <Fragment key={i}>
          {b.kind === "head" && <h3 className="text-body font-semibold">{b.words}</h3>}
          {b.kind === "words" && <p className="max-w-3xl">{told(b.words)}</p>}
          {b.kind === "table" && (
            <table className="w-max max-w-full text-fine">
              <tbody>
                {b.rows.map((r, n) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: rows of a page never change places
                  <tr key={n} className={n === 0 ? "text-left text-faint" : "border-t hairline"}>
                    {r.map((c, m) => (
                      // biome-ignore lint/suspicious/noArrayIndexKey: cells of a page never change places
                      <td key={m} className="py-0.5 pr-4 align-top">
                        {told(c)}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Fragment>
      ))}
    </div>
  );
}

export function blocks(text: string): Block[] {
  const found: Block[] = [];
  for (const line of text.split("\n")) {
    const last = found.at(-1);
    if (line.startsWith("#")) found.push({ kind: "head", words: line.replace(/^#+ */, "") });
    else if (/^\|[-|: ]+\|$/.test(line)) continue;
    else if (line.startsWith("|")) {
      const cells = line
        .split("|")
        .slice(1, -1)
        .map((c) => c.trim());
      if (last?.kind === "table") last.rows.push(cells);
      else found.push({ kind: "table", rows: [cells] });
    } else if (line.trim() === "") found.push({ kind: "words", words: "" });
    else if (last?.kind === "words" && last.words) last.words += ` ${line}`;
    else found.push({ kind: "words", words: line });
  }
  return found.filter((b) => b.kind !== "words" || b.words !== "");
}

/** Bold as it is meant, code without its marks. */
const told = (words: string) =>
  words
    .replaceAll("`", "")
    .split("**")
    .map((part, i) =>
      // biome-ignore lint/suspicious/noArrayIndexKey: parts of a line never change places
      i % 2 ? <strong key={i}>{part}</strong> : part,
    );
