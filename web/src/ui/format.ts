/** Numbers as a maker reads them. */

/** 0.1063 -> "0.11 mm", 12.345 -> "12.3 mm". */
export function mm(value: number | null | undefined, unit = "mm"): string {
  if (value === null || value === undefined) return "–";
  const digits = Math.abs(value) < 10 ? 2 : Math.abs(value) < 1000 ? 1 : 0;
  return `${value.toFixed(digits)} ${unit}`.trim();
}

/** Deviations: hundredths of a millimetre are not fine enough for them. */
export const fineMm = (value: number) => `${value.toFixed(Math.abs(value) < 1 ? 3 : 2)} mm`;

/** A limit beside a measured value of the same unit. */
export const atLeast = (limit: number) => `≥ ${mm(limit, "")}`;

/** 223 -> "3 min 43 s". */
export function duration(seconds: number): string {
  if (seconds < 60) return `${seconds < 10 ? seconds.toFixed(1) : Math.round(seconds)} s`;
  const whole = Math.round(seconds);
  if (whole < 3600) return `${Math.floor(whole / 60)} min ${whole % 60} s`;
  return `${Math.floor(whole / 3600)} h ${Math.floor((whole % 3600) / 60)} min`;
}

/** 122148 -> "122 kB". */
export function bytes(size: number): string {
  if (size < 1000) return `${size} B`;
  return size < 1e6 ? `${Math.round(size / 1000)} kB` : `${(size / 1e6).toFixed(1)} MB`;
}

export const plural = (count: number, word: string, many = `${word}s`) =>
  `${count} ${count === 1 ? word : many}`;
