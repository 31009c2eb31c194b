import { describe, expect, it, vi } from "vitest";
import { comparing, PLAIN } from "./compare";

const view = { scale: 1, x: 0, y: 0 };
const size = { width: 200, height: 100 };

function context() {
  return {
    save: vi.fn(),
    restore: vi.fn(),
    beginPath: vi.fn(),
    rect: vi.fn(),
    clip: vi.fn(),
    globalAlpha: 1,
  };
}

describe("comparing in place", () => {
  const drawing = vi.fn();
  const other = vi.fn();

  it("shows the drawing alone as long as nobody compares, or there is nothing to compare with", () => {
    expect(comparing(drawing, other, PLAIN, size)).toEqual([drawing]);
    expect(comparing(drawing, null, { ...PLAIN, fade: 0.5 }, size)).toEqual([drawing]);
  });

  it("fades the drawing over the other", () => {
    const [below, above] = comparing(drawing, other, { ...PLAIN, fade: 0.25 }, size);
    expect(below).toBe(other);
    const canvas = context();
    drawing.mockImplementation((c: typeof canvas) => expect(c.globalAlpha).toBe(0.75));
    above!(canvas as never, view);
    expect(drawing).toHaveBeenCalled();
  });

  it("divides the sheet, the other at the left", () => {
    const [left, right] = comparing(drawing, other, { ...PLAIN, divider: 0.25 }, size);
    const canvas = context();
    drawing.mockReset();
    left!(canvas as never, view);
    right!(canvas as never, view);
    expect(canvas.rect.mock.calls).toEqual([
      [0, 0, 50, 100],
      [50, 0, 150, 100],
    ]);
  });
});
