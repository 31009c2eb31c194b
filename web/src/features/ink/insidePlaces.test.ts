import { describe, expect, it } from "vitest";
import { turned } from "./insidePlaces";

const eye = { x_px: 40, y_px: 60, area_px2: 400, kept: false };
const tooth = { x_px: 90, y_px: 60, area_px2: 100, kept: false };

describe("turned", () => {
  it("adds a place, and takes it away again", () => {
    expect(turned([], eye)).toEqual([{ x_px: 40, y_px: 60 }]);
    expect(turned([{ x_px: 40, y_px: 60 }], eye)).toEqual([]);
  });
  it("knows a place again that a rough trace saw a little off", () => {
    expect(turned([{ x_px: 42, y_px: 59 }], eye)).toEqual([]);
  });
  it("leaves other places alone", () => {
    expect(turned([{ x_px: 40, y_px: 60 }], tooth)).toEqual([
      { x_px: 40, y_px: 60 },
      { x_px: 90, y_px: 60 },
    ]);
  });
});
