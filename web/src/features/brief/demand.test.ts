import { describe, expect, it } from "vitest";
import type { DemandRow } from "@/api/client";
import { sortRows, sparkline } from "./demand";

const row = (subject: string, views_day: number, rivals: number) =>
  ({
    subject,
    views_day,
    rivals,
    favourites: 0,
    price: 1,
    gap: views_day / rivals,
    history: [],
  }) as unknown as DemandRow;
const ROWS = [row("mug", 10, 5), row("owl", 40, 2), row("ant", 10, 9)];

describe("demand", () => {
  it("is sorted by merit: most views, fewest rivals, names where figures tie", () => {
    expect(sortRows(ROWS, "views_day").map((each) => each.subject)).toEqual(["owl", "ant", "mug"]);
    expect(sortRows(ROWS, "rivals").map((each) => each.subject)).toEqual(["owl", "mug", "ant"]);
  });

  it("is a line from left to right, high where the value is high", () => {
    expect(sparkline([0, 10, 5], 20, 10)).toBe("1.0,11.0 11.0,1.0 21.0,6.0");
    expect(sparkline([], 20, 10)).toBe("");
  });
});
