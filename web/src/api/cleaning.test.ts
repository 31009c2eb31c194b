import { describe, expect, it } from "vitest";
import type { Sketch } from "./client";
import { NEW_STEPS, STEP_WORDS, stepsOf, stepWords } from "./cleaning";

describe("clean-up steps", () => {
  it("have words for all kinds that are offered, none of them twice", () => {
    const words = NEW_STEPS.map((step) => stepWords(step.kind));
    expect(new Set(words).size).toBe(words.length);
    expect(NEW_STEPS.every((step) => STEP_WORDS[step.kind])).toBe(true);
  });

  it("begin switched on, turning and mirroring by something that shows", () => {
    expect(NEW_STEPS.every((step) => step.on)).toBe(true);
    expect(NEW_STEPS.find((step) => step.kind === "turn")).toMatchObject({ angle_deg: 90 });
  });

  it("keep a kind nobody named readable", () => {
    expect(stepWords("fold")).toBe("fold");
  });

  it("are those of the sketch, or none", () => {
    const steps = [{ kind: "invert", on: false }];
    expect(stepsOf({ clean_steps: steps } as unknown as Sketch)).toEqual(steps);
    expect(stepsOf({} as Sketch)).toEqual([]);
  });
});
