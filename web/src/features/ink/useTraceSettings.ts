/** What the knobs are set to. The method is the picture's own until the maker picks one. */
import { useState } from "react";
import type { KeptDrawing, NamedYardstick, Sketch, TraceSettings } from "@/api/client";
import { useForecast } from "@/api/queries";
import traceDefaults from "@/api/traceDefaults.json";

export type MethodOrAuto = "auto" | TraceSettings["method"];

/** As the API starts, which is as all of Zeichen does. */
export const START = traceDefaults as TraceSettings;

export interface Wanted {
  method: TraceSettings["method"];
  why: string;
}

/**
 * The settings to trace with, of what the maker has set, what the drawing was traced with, and what the picture wants.
 *
 * set: null until a knob was touched; kept: of the drawing, if it is this sketch's; auto: no method was picked.
 */
export function settled(
  set: TraceSettings | null,
  kept: TraceSettings | null,
  auto: boolean,
  wanted: Wanted | null,
): { used: TraceSettings; isAuto: boolean } {
  // The first look at what was traced takes its own.
  const isAuto = auto && !(set === null && kept !== null);
  const base = set ?? kept ?? START;
  return { used: isAuto && wanted ? { ...base, method: wanted.method } : base, isAuto };
}

export function useTraceSettings(
  sketch: Sketch | null,
  drawing: KeptDrawing | undefined,
  yardstick: NamedYardstick,
) {
  // Knobs stay as they are while the maker moves between motifs.
  const [set, setSet] = useState<TraceSettings | null>(null);
  const [auto, setAuto] = useState(true);
  const forecast = useForecast(sketch, yardstick);
  const wanted = forecast.data
    ? { method: forecast.data.method as Wanted["method"], why: forecast.data.why }
    : null;
  const kept =
    drawing && drawing.sketch_id === sketch?.id ? { ...START, ...(drawing.settings as TraceSettings) } : null;
  const { used, isAuto } = settled(set, kept, auto, wanted);
  return {
    used,
    isAuto,
    wanted,
    /** Nothing is traced before it is known how. */
    isReady: !isAuto || wanted !== null || forecast.isError,
    change: (settings: TraceSettings) => {
      if (!isAuto) setAuto(false);
      setSet(settings);
    },
    take: (settings: TraceSettings) => {
      setAuto(false);
      setSet(settings);
    },
    /** Turning single places inside says nothing about the method. */
    turn: (turned_inside: TraceSettings["turned_inside"]) => setSet({ ...used, turned_inside }),
    pick: (method: MethodOrAuto) => {
      setAuto(method === "auto");
      setSet(method === "auto" ? used : { ...used, method });
    },
  };
}
