import { within } from "@/shared/words/words";
import { NumberField } from "./NumberField";

/** A run's log, and the room's temperature where nobody logged it. */
export function LogAndRoom(
  props: { roomC: number | null; onRoom: (v: number | null) => void } & (
    | { many?: false; onFile: (file: File | null) => void }
    | { many: true; onFiles: (files: File[]) => void }
  ),
) {
  return (
    <>
      <label className="flex flex-col gap-0.5 text-fine text-faint">
        {props.many ? "Their logs (CSV), a file each" : "Its log (CSV)"}
        <input
          type="file"
          accept=".csv,.tsv,.txt,.log"
          className="file-input file-input-sm text-base-content"
          multiple={props.many}
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            if (props.many) props.onFiles(files);
            else props.onFile(files[0] ?? null);
          }}
        />
      </label>
      <NumberField
        label="Room, if it was not logged"
        kind="temperature"
        value={props.roomC}
        optional="logged"
        {...within("room.temperature_c")}
        onCommit={props.onRoom}
      />
    </>
  );
}
