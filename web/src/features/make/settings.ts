/** What can be set for each process: plain data for the form; the server judges the values. */
import type { Process } from "@/api/client";

export type Making = "laser" | "carve" | "relief" | "apparel";
export type Values = Record<string, number | string | boolean>;

interface NumberSetting {
  key: string;
  label: string;
  unit: string;
}

interface ChoiceSetting {
  key: string;
  label: string;
  choices: { value: string; label: string }[];
}

export const MAKINGS: { value: Making; label: string }[] = [
  { value: "laser", label: "Laser" },
  { value: "carve", label: "Carve" },
  { value: "relief", label: "Relief" },
  { value: "apparel", label: "Apparel" },
];

export const CHOICES: Record<Making, ChoiceSetting[]> = {
  laser: [
    {
      key: "cut",
      label: "Cut",
      choices: [
        { value: "none", label: "Nothing" },
        { value: "around", label: "A tag" },
        { value: "shapes", label: "The shapes" },
      ],
    },
  ],
  carve: [
    {
      key: "entity",
      label: "Written as",
      choices: [
        { value: "spline", label: "Splines" },
        { value: "polyline", label: "Polylines" },
      ],
    },
  ],
  relief: [
    {
      key: "form",
      label: "Base",
      choices: [
        { value: "plate", label: "Plate" },
        { value: "outline", label: "Outline" },
      ],
    },
  ],
  apparel: [],
};

export const NUMBERS: Record<Making, NumberSetting[]> = {
  laser: [
    { key: "spacing_mm", label: "Line spacing", unit: "mm" },
    { key: "engrave_speed_mm_s", label: "Engraving speed", unit: "mm/s" },
    { key: "engrave_power_percent", label: "Engraving power", unit: "%" },
    { key: "cut_speed_mm_s", label: "Cutting speed", unit: "mm/s" },
    { key: "cut_power_percent", label: "Cutting power", unit: "%" },
    { key: "cut_passes", label: "Cutting passes", unit: "×" },
    { key: "kerf_mm", label: "Kerf", unit: "mm" },
    { key: "margin_mm", label: "Tag border", unit: "mm" },
    { key: "hole_mm", label: "Hanging hole", unit: "mm" },
  ],
  carve: [{ key: "tolerance_mm", label: "Polylines stay within", unit: "mm" }],
  relief: [
    { key: "layer_mm", label: "Layer height", unit: "mm" },
    { key: "base_mm", label: "Base", unit: "mm" },
    { key: "raised_mm", label: "Raised by", unit: "mm" },
    { key: "margin_mm", label: "Border", unit: "mm" },
  ],
  apparel: [
    { key: "area_width_in", label: "Print area, width", unit: "in" },
    { key: "area_height_in", label: "Print area, height", unit: "in" },
    { key: "resolution_dpi", label: "Resolution", unit: "dpi" },
    { key: "top_mm", label: "Below the top edge", unit: "mm" },
  ],
};

export function startValues(making: Making, process: Process): Values {
  switch (making) {
    case "laser":
      return {
        cut: process === "laser-cut" ? "around" : "none",
        engrave: true,
        spacing_mm: 0.1,
        engrave_speed_mm_s: 280,
        engrave_power_percent: 36,
        cut_speed_mm_s: 11,
        cut_power_percent: 82,
        cut_passes: 1,
        kerf_mm: 0.16,
        margin_mm: 4,
        hole_mm: 0,
      };
    case "carve":
      return { entity: "spline", tolerance_mm: 0.01 };
    case "relief":
      return { form: "plate", layer_mm: 0.2, base_mm: 2, raised_mm: 1, margin_mm: 3 };
    case "apparel":
      return { area_width_in: 15, area_height_in: 18, resolution_dpi: 300, top_mm: 40 };
  }
}

/** Which settings say nothing for the choices made, and are left out of the form. */
export function isIdle(making: Making, key: string, values: Values): boolean {
  if (making === "laser" && values.cut === "none") return /^(cut_|kerf|margin|hole)/.test(key);
  if (making === "laser" && values.cut === "shapes") return /^(margin|hole)/.test(key);
  if (making === "carve") return key === "tolerance_mm" && values.entity === "spline";
  return false;
}

/** The process a ticket starts with, from what the yardstick is for. */
export function makingFor(process: Process): Making {
  if (process === "carve" || process === "relief" || process === "apparel") return process;
  return "laser";
}
