import { useState } from "react";
import type { LayoutDoc } from "@/shared/api/client";
import { curveChoices } from "@/shared/job/edits";
import { DocNumber, DocText } from "@/shared/job/fields";
import { Rows } from "@/shared/job/Rows";
import { useJob } from "@/shared/job/store";
import { Button } from "@/shared/ui/bits";
import { FileButton } from "@/shared/ui/FileButton";
import { NO_PICTURE, small } from "@/shared/ui/picture";
import { has } from "@/shared/words/lists";
import type { Change } from "./choices";

/** Fans that turn together; a fan is put into a group where it stands. */
export function Groups({ at }: { at: number }) {
  const { document } = useJob();
  const curved = has(document.curves);
  return (
    <div className="flex flex-col gap-1">
      <span className="text-fine text-faint">Fan groups: one speed or one curve for several fans</span>
      <Rows
        path={["layouts", at, "groups"]}
        one="a group"
        stem="group "
        fresh={(id) => ({ name: id, speed_pct: 60 })}
        onRemove={(d, id) => {
          for (const f of d.layouts?.[at]?.fans ?? []) if (f.group === id) f.group = null;
        }}
        title={(row) => row.name ?? row.id}
        fields={[
          { name: "name", words: "Name", as: "text" },
          { name: "speed_pct", words: "Speed", kind: "share" },
          ...(curved ? [{ name: "curve", words: "Runs at", choices: curveChoices(document) }] : []),
        ]}
      />
    </div>
  );
}

const MOST_SIDE_PX = 900;

/** What belongs to a layout and is no air: work, looks, dust, a picture, a note. */
export function Notes({ layout, at, change }: { layout: LayoutDoc; at: number; change: Change }) {
  const [fault, setFault] = useState("");
  const path = (name: string) => ["layouts", at, name];
  const take = async (file: File) => {
    setFault("");
    try {
      const { picture } = await small(file, MOST_SIDE_PX);
      change(`picture of ${layout.id}`, (x) => {
        x.picture = picture;
      });
    } catch {
      setFault(NO_PICTURE);
    }
  };
  return (
    <div className="flex flex-wrap items-end gap-3">
      <DocText label="Note" path={path("note")} wide />
      <DocNumber label="Minutes of work" path={path("labour_min")} digits={0} optional="not known" />
      <DocText label="Looks" path={path("looks")} />
      <DocNumber label="Looks, 0 to 5" path={path("looks_score")} digits={0} optional="not judged" />
      <DocText label="Dust and cleaning" path={path("dust_access")} />
      <FileButton words={layout.picture ? "Another picture" : "Picture"} accept="image/*" onFile={take} />
      {layout.picture && (
        <>
          <img src={layout.picture} alt={`Layout ${layout.id} as built`} className="h-12 rounded border hairline" />
          <Button
            small
            onClick={() =>
              change(`no picture of ${layout.id}`, (x) => {
                x.picture = "";
              })
            }
          >
            take it off
          </Button>
        </>
      )}
      {fault && (
        <p role="alert" className="text-small text-error">
          {fault}
        </p>
      )}
    </div>
  );
}
