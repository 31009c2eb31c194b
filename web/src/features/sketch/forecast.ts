/** How a forecast's verdict is shown: never by colour alone, the words are always there. */
export const FORECAST_TONE: Record<string, "pass" | "warn" | "fail"> = {
  "traces-well": "pass",
  "needs-clean-up": "warn",
  "too-fine": "fail",
  "wrong-kind": "fail",
};

export const FORECAST_TEXT = { pass: "text-leaf", warn: "text-ochre-text", fail: "text-red-pencil" } as const;

const WORDS: Record<string, string> = {
  "traces-well": "traces well",
  "needs-clean-up": "needs clean-up",
  "too-fine": "too fine",
  "wrong-kind": "wrong kind of picture",
};

export const verdictWords = (verdict: string) => WORDS[verdict] ?? verdict;
