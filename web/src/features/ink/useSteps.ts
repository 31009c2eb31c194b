import { useCallback, useEffect, useRef, useState } from "react";
import { previewCleaning, stepsOf, useCleaning, type CleanStep } from "@/api/cleaning";
import type { Sketch } from "@/api/client";
import { tellProblem } from "@/ui/notices";

/** Pictures with more pixels are shown at the size of the screen while steps change, and done whole after. */
const BIG_PX = 3_000_000;
const REST_MS = 1200;

/** What is on the screen runs ahead of the server; another sketch or an answer brings it back. */
export function useSteps(sketch: Sketch | null) {
  const cleaning = useCleaning();
  const kept = JSON.stringify(sketch ? stepsOf(sketch) : []);
  const [ahead, setAhead] = useState<CleanStep[] | null>(null);
  const waiting = useRef<{ id: number; steps: CleanStep[] } | null>(null);
  const sending = useRef(false);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const look = useLook();
  const id = sketch?.id ?? 0;
  const shown = useRef(id);
  shown.current = id;
  useEffect(() => {
    setAhead(null);
    look.clear();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id]);
  const send = async (change: { id: number; steps: CleanStep[] }) => {
    // One change at a time: of two under way, the older could arrive last and win.
    sending.current = true;
    await cleaning.mutateAsync(change).catch(() => undefined);
    sending.current = false;
    const next = waiting.current;
    waiting.current = null;
    if (next) void send(next);
    else if (shown.current === change.id) {
      setAhead(null);
      look.clear();
    }
  };
  const put = (steps: CleanStep[]) => {
    if (!sketch) return;
    setAhead(steps);
    const change = { id, steps };
    const later = () => {
      if (sending.current) waiting.current = change;
      else void send(change);
    };
    clearTimeout(timer.current);
    if (sketch.width_px * sketch.height_px > BIG_PX) {
      look.at(id, steps);
      timer.current = setTimeout(later, REST_MS);
    } else later();
  };
  return { steps: ahead ?? (JSON.parse(kept) as CleanStep[]), put, look: look.url };
}

/** A picture of steps that are not done yet. */
function useLook() {
  const [url, setUrl] = useState<string | null>(null);
  const turn = useRef(0);
  const show = useCallback((next: string | null) => {
    setUrl((before) => {
      if (before) URL.revokeObjectURL(before);
      return next;
    });
  }, []);
  const at = (id: number, steps: CleanStep[]) => {
    const mine = ++turn.current;
    previewCleaning(id, steps).then(
      (blob) => mine === turn.current && blob && show(URL.createObjectURL(blob)),
      (error: unknown) => mine === turn.current && tellProblem(error),
    );
  };
  const clear = () => {
    turn.current += 1;
    show(null);
  };
  return { url, at, clear };
}
