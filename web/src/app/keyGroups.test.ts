import { describe, expect, it } from "vitest";
import { KEYMAP } from "@/keys/keymap";
import { STAGES } from "@/stages";
import { keyGroups } from "./keyGroups";

describe("the key sheet", () => {
  it("begins with what works here, then everywhere", () => {
    const titles = keyGroups(KEYMAP, "proof", STAGES).map((group) => group.title);
    expect(titles.slice(0, 2)).toEqual(["Here in Proof", "Everywhere"]);
    expect(titles).toContain("In Sketch");
    expect(titles).not.toContain("In Proof");
  });

  it("leaves no key out, wherever one is", () => {
    for (const stage of STAGES) {
      const listed = keyGroups(KEYMAP, stage, STAGES).flatMap((group) => group.rows.map((row) => row.does));
      expect(KEYMAP.every((binding) => listed.includes(binding.does))).toBe(true);
    }
  });

  it("shows no group without keys: the brief has none of its own", () => {
    expect(keyGroups(KEYMAP, "brief", STAGES)[0]?.title).toBe("Everywhere");
  });
});
