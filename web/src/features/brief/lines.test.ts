import { describe, expect, it } from "vitest";
import { addSubjects, changeLine, lineKey, moveLine } from "./lines";

const LIST = "Snail\n\n# Teapot | tilted | blue\nBean pod";

describe("the list of subjects", () => {
  it("knows a subject however its line is written", () => {
    expect(lineKey("  ## Bean   POD | lying ")).toBe("bean pod");
    expect(lineKey(" # ")).toBe("");
  });

  it("changes one line and leaves the others as they are", () => {
    expect(changeLine(LIST, "snail", { pose: "facing left" })).toBe(
      "Snail | facing left\n\n# Teapot | tilted | blue\nBean pod",
    );
    expect(changeLine(LIST, "Teapot", { on: true })).toContain("\nTeapot | tilted | blue\n");
    expect(changeLine(LIST, "Teapot", { pose: "", note: "" })).toContain("\n# Teapot\n");
    expect(changeLine(LIST, "Bean pod", { note: "on a | plate" })).toContain("Bean pod |  | on a plate");
    expect(changeLine(LIST, "Nobody", { on: false })).toBe(LIST);
  });

  it("moves a subject past its neighbour, and not out of the list", () => {
    expect(moveLine(LIST, "bean pod", -1)).toBe("Snail\nBean pod\n# Teapot | tilted | blue");
    expect(moveLine(LIST, "snail", -1)).toBe(LIST);
    expect(moveLine(LIST, "bean pod", 1)).toBe(LIST);
  });

  it("takes up proposals once", () => {
    expect(addSubjects(LIST, ["teapot", "mug"])).toBe(`${LIST}\nMug`);
    expect(addSubjects("", ["mug", "kettle"])).toBe("Mug\nKettle");
  });
});
