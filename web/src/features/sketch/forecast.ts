/** How a forecast's verdict is shown: never by colour alone, the words are always there. */
export const FORECAST_TONE: Record<string, "pass" | "warn" | "fail"> = {
  "traces well": "pass",
  "needs clean-up": "warn",
  "too fine": "fail",
  "will not trace": "fail",
};

export const FORECAST_TEXT = { pass: "text-leaf", warn: "text-ochre-text", fail: "text-red-pencil" } as const;
