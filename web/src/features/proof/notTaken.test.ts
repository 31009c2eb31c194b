import { expect, it } from "vitest";
import { lettersFor } from "./NotTaken";

it("sets text where it stood, its capitals as high as they were", () => {
  const order = lettersFor({ content: "Tea", x: 100, y: 200, size: 40 }, 0.25, "#24272b");
  expect(order.text).toBe("Tea");
  expect(order.cap_height_mm).toBeCloseTo(0.7 * 40 * 0.25);
  // About its middle: half way along three letters, half a capital above the baseline.
  expect(order.x).toBeCloseTo(100 + (3 * 0.54 * 40) / 2);
  expect(order.y).toBeCloseTo(200 - 14);
});
