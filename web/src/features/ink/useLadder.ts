/** The ladder: one sketch traced from plain to detailed, rung after rung as they are ready. */
import { useEffect, useState } from "react";
import { Problem, type LadderEnd, type RungPart, type TraceSettings } from "@/api/client";
import { askLines } from "@/api/lines";
import type { SeenSketch } from "@/api/queries";
import { tellProblem } from "@/ui/notices";

const CLIENT = crypto.randomUUID();

export interface Ladder {
  rungs: RungPart[];
  suggested: number | null;
  climbing: boolean;
  message: string;
}
const EMPTY: Ladder = { rungs: [], suggested: null, climbing: false, message: "" };

/** Climb while `base` is given; a new base starts over. */
export function useLadder(sketch: SeenSketch | null, base: TraceSettings | null): Ladder {
  const [ladder, setLadder] = useState(EMPTY);
  const key = JSON.stringify(base);
  const sketchId = sketch?.id ?? null;
  const picture = sketch?.picture_sha;
  useEffect(() => {
    const settings = JSON.parse(key) as TraceSettings | null;
    if (sketchId === null || !settings) {
      setLadder(EMPTY);
      return;
    }
    const stop = new AbortController();
    setLadder({ ...EMPTY, climbing: true });
    askLines<RungPart | LadderEnd>(
      `/api/sketches/${sketchId}/ladder`,
      { settings, client: CLIENT },
      (part) =>
        setLadder((now) =>
          "rung" in part
            ? { ...now, rungs: [...now.rungs, part] }
            : { ...now, suggested: part.suggested, message: part.message },
        ),
      stop.signal,
    )
      .catch((error: unknown) => {
        if (!stop.signal.aborted && error instanceof Problem) tellProblem(error);
      })
      .finally(() => {
        if (!stop.signal.aborted) setLadder((now) => ({ ...now, climbing: false }));
      });
    return () => stop.abort();
  }, [sketchId, picture, key]);
  return ladder;
}
