import { useState } from "react";
import type { Place } from "@/shared/api/sounds";
import { Select } from "@/shared/ui/bits";
import { NumberField } from "@/shared/ui/NumberField";
import { MICROPHONE_PLACES, SOUND_SIDES, within } from "@/shared/words/words";

/** What a run says of its microphone, as a place. */
export const placeOf = (m: Partial<Place>): Place => ({
  distance_m: m.distance_m ?? null,
  height_m: m.height_m ?? null,
  side: m.side ?? "",
  place: m.place ?? "",
});

/** Where the microphone stands: the person's own seat, or a place of the standard, and how far, how high, on which side. */
export function MicrophonePlace({ place, onPlace }: { place: Place; onPlace: (place: Place) => void }) {
  const [seat, setSeat] = useState(MICROPHONE_PLACES.find((p) => p.words === place.place)?.value ?? "own");
  const choose = (value: string) => {
    setSeat(value);
    const found = MICROPHONE_PLACES.find((p) => p.value === value);
    if (found)
      onPlace({ distance_m: found.distance_m, height_m: found.height_m, side: found.side as Place["side"], place: found.words });
    else onPlace({ ...place, place: "" });
  };
  return (
    <>
      <Select
        label="Where the microphone stands"
        value={seat}
        choices={[{ value: "own", words: "where you sit" }, ...MICROPHONE_PLACES]}
        onChange={choose}
      />
      <NumberField
        label="Distance, m"
        digits={2}
        value={place.distance_m}
        {...within("ask.microphone_m")}
        optional="not known"
        onCommit={(v) => onPlace({ ...place, distance_m: v })}
      />
      <NumberField
        label="Height, m"
        digits={2}
        value={place.height_m}
        {...within("ask.microphone_high_m")}
        optional="not known"
        onCommit={(v) => onPlace({ ...place, height_m: v })}
      />
      <Select
        label="Side"
        value={place.side ?? ""}
        choices={SOUND_SIDES}
        onChange={(v) => onPlace({ ...place, side: v as Place["side"] })}
      />
    </>
  );
}
