import type { Look } from "./client";

/** The looks of a house style, as they are called on the screen. */
export const LOOKS: { value: Look; label: string }[] = [
  { value: "silhouette", label: "Silhouette" },
  { value: "line", label: "Line" },
  { value: "flat", label: "Flat" },
  { value: "stencil", label: "Stencil" },
  { value: "ink", label: "Ink" },
];
