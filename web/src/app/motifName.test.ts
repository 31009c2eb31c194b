import { expect, it } from "vitest";
import { motifName } from "./motifName";

it.each([
  ["tea_pot-final.png", "Tea pot final"],
  ["C:\\scans\\snail.JPG", "Snail"],
  ["bean pod", "Bean pod"],
  [".svg", "Motif"],
  ["", "Motif"],
])("calls %s %s", (file, name) => {
  expect(motifName(file)).toBe(name);
});
