import { describe, expect, it } from "vitest";
import { FORECAST_TEXT, FORECAST_TONE, verdictWords } from "./forecast";

const VERDICTS = ["traces-well", "needs-clean-up", "too-fine", "wrong-kind"];

describe("forecast verdicts", () => {
  it("are words, not codes, and differ from each other", () => {
    const words = VERDICTS.map(verdictWords);
    expect(words).toEqual(["traces well", "needs clean-up", "too fine", "wrong kind of picture"]);
  });

  it("have a tone each, and each tone a colour that can be read", () => {
    for (const verdict of VERDICTS) {
      const tone = FORECAST_TONE[verdict];
      expect(tone && FORECAST_TEXT[tone]).toMatch(/^text-/);
    }
    expect(FORECAST_TONE["traces-well"]).toBe("pass");
  });

  it("show an unknown one as it is", () => {
    expect(verdictWords("perhaps")).toBe("perhaps");
  });
});
