/** The looks of a house style, as the screens name them. */
import type { Look } from "./client";

export const LOOKS: { value: Look; label: string }[] = [
  { value: "silhouette", label: "Silhouette" },
  { value: "line", label: "Bold line" },
  { value: "flat", label: "Flat colour" },
];
