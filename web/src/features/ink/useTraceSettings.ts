/** What the knobs are set to. The method is the picture's own until the maker picks one. */
import { useState } from "react";
import type { KeptDrawing, NamedYardstick, Sketch, TraceSettings } from "@/api/client";
import { useForecast } from "@/api/queries";

export type MethodOrAuto = "auto" | TraceSettings["method"];

export const START: TraceSettings = {
  method: "solid",
  level: null,
  min_spot_px2: 16,
  tolerance_px: 0.4,
  corner_deg: 20,
  invert: false,
  even_light: false,
  colours: null,
  palette: [],
  keep_ground: false,
  borders: "side-by-side",
  underlay_px: 2,
  shading: "auto",
  tone: "middle",
  figure: "auto",
  inside: "auto",
  turned_inside: [],
  strokes: "single",
};

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
