import { expect, it } from "vitest";
import { listingChecks } from "./checks";

const good = {
  title: "Allotment clipart",
  description: "Six bold garden silhouettes for slate, plywood and print.",
  keywords: ["a", "b", "c", "d", "e"],
  licence: "Personal use",
  motifCount: 6,
};
const failing = (changes: Partial<typeof good>) =>
  listingChecks({ ...good, ...changes })
    .filter((row) => row.state !== "pass")
    .map((row) => row.label);

it("passes a listing that has everything", () => expect(failing({})).toEqual([]));

it.each([
  [{ title: "  " }, ["Title"]],
  [{ description: "Short." }, ["Description"]],
  [{ keywords: ["a", "b"] }, ["Keywords"]],
  [{ licence: " " }, ["Licence"]],
  [{ motifCount: 0 }, ["Motifs"]],
  [{ title: "", keywords: [] }, ["Title", "Keywords"]],
])("marks what %j lacks", (changes, labels) => expect(failing(changes)).toEqual(labels));
