import { useState } from "react";
import { type Clip, type Place, type SpeedsSet, type Tie, useAddClip } from "@/shared/api/sounds";
import { useJob } from "@/shared/job/store";
import { type Recording, record } from "./record";

export const STORING = "The clip is being stored …";
const COUNT_IN_S = 3;
const CLIP_S = 10;

/** Count-in, hands off, ten seconds: what the microphone gave, or null where it was stopped or gave nothing; `words` say where it is. */
export function useRecorder() {
  const [words, setWords] = useState("");
  const [going, setGoing] = useState<AbortController | null>(null);
  const take = async (name: string): Promise<Recording | null> => {
    const stop = new AbortController();
    setGoing(stop);
    try {
      for (let left = COUNT_IN_S; left > 0; left--) {
        setWords(`Hands off and quiet: recording begins in ${left} s`);
        await new Promise((r) => setTimeout(r, 1000));
        stop.signal.throwIfAborted();
      }
      const told = (left: number) => setWords(`Recording, ${left.toFixed(0)} s to go. Hands off.`);
      const made = await record(CLIP_S, name, told, stop.signal);
      setWords("");
      return made;
    } catch (error) {
      setWords(
        stop.signal.aborted ? "Stopped; nothing was kept." : `No recording: ${error instanceof Error ? error.message : error}`,
      );
      return null;
    } finally {
      setGoing(null);
    }
  };
  return { words, going: going !== null, stop: () => going?.abort(), take };
}

/** `at`: how fans were driven, where that is not as the layout asks. */
export type Heard = { kind: Clip["kind"]; place: Place; reading: number | null; gainMoves: boolean; at?: SpeedsSet };

/** The place where a job's listener sits. */
export function useOwnPlace(): Place {
  const { document } = useJob();
  const { room } = document;
  return {
    distance_m: room?.listener_distance_m ?? null,
    height_m: null,
    side: (room?.listener_side as Place["side"]) ?? "front",
    place: "",
  };
}

/** Keeps clips: tied by the meter's reading of the same moment where there is one, else by the latest calibrator of the same recorder. */
export function useClipKeeper(layout: string, run: number | null, clips: readonly Clip[]) {
  const { id } = useJob();
  const add = useAddClip(id);
  const calibrator = clips.filter((c) => c.kind === "calibrator" && !c.struck && !c.made_up).at(-1);
  const keep = (file: File, heard: Heard) => {
    const ofCalibrator = heard.kind === "calibrator";
    const known = calibrator?.tie_level != null;
    const tie: Tie = ofCalibrator ? "none" : heard.reading !== null ? "meter" : known ? "calibrator" : "none";
    return add.mutateAsync({
      file,
      layout,
      run: ofCalibrator ? null : run,
      kind: heard.kind,
      place: heard.place,
      gainMoves: heard.gainMoves,
      tie: heard.gainMoves ? "none" : tie,
      level: heard.reading ?? calibrator?.tie_level ?? null,
      by: tie === "calibrator" ? (calibrator?.id ?? null) : null,
      at: heard.at,
    });
  };
  return { keep, error: add.error, pending: add.isPending };
}
