import { useEffect, useRef, useState } from "react";
import { stepsOf, useCleaning, type CleanStep } from "@/api/cleaning";
import type { Sketch } from "@/api/client";

/** What is on the screen runs ahead of the server; another sketch or an answer brings it back. */
export function useSteps(sketch: Sketch | null) {
  const cleaning = useCleaning(sketch);
  const kept = JSON.stringify(sketch ? stepsOf(sketch) : []);
  const [ahead, setAhead] = useState<CleanStep[] | null>(null);
  const waiting = useRef<CleanStep[] | null>(null);
  useEffect(() => setAhead(null), [sketch?.id]);
  const send = (steps: CleanStep[]) =>
    cleaning.mutate(steps, {
      onSettled: () => {
        const next = waiting.current;
        waiting.current = null;
        if (next) send(next);
        else setAhead(null);
      },
    });
  const put = (steps: CleanStep[]) => {
    setAhead(steps);
    if (cleaning.isPending) waiting.current = steps;
    else send(steps);
  };
  return { steps: ahead ?? (JSON.parse(kept) as CleanStep[]), put };
}
