import { describe, expect, it } from "vitest";
import { middleColour } from "./sample";

describe("a sampled colour", () => {
  it("is the middle one, whatever a stray pixel says", () => {
    const data = new Uint8ClampedArray([161, 76, 45, 255, 160, 77, 44, 255, 255, 255, 255, 255]);
    expect(middleColour(data)).toBe("#a14d2d");
  });

  it("is nothing beside the picture", () => {
    expect(middleColour(new Uint8ClampedArray([0, 0, 0, 0]))).toBeNull();
  });
});
