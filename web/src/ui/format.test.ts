import { expect, it } from "vitest";
import { atLeast, bytes, duration, mm, plural } from "./format";

it.each([
  [0.1063, "0.11 mm"],
  [9.999, "10.00 mm"],
  [12.345, "12.3 mm"],
  [1234.5, "1235 mm"],
  [0, "0.00 mm"],
  [null, "–"],
  [undefined, "–"],
])("reads %s as %s", (value, text) => expect(mm(value)).toBe(text));

it("leaves the unit out where a column says it", () => {
  expect(mm(0.5, "")).toBe("0.50");
  expect(atLeast(0.15)).toBe("≥ 0.15");
  expect(mm(0.33, "mm²")).toBe("0.33 mm²");
});

it.each([
  [3.21, "3.2 s"],
  [59.4, "59 s"],
  [162, "2 min 42 s"],
  [3599.6, "1 h 0 min"],
  [7260, "2 h 1 min"],
])("reads %s seconds as %s", (seconds, text) => expect(duration(seconds)).toBe(text));

it.each([
  [999, "999 B"],
  [122_148, "122 kB"],
  [1_250_000, "1.3 MB"],
])("reads %s bytes as %s", (size, text) => expect(bytes(size)).toBe(text));

it("counts in words", () => {
  expect([plural(1, "speck"), plural(0, "speck"), plural(2, "sketch", "sketches")]).toEqual([
    "1 speck",
    "0 specks",
    "2 sketches",
  ]);
});
