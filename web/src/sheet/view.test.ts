import { describe, expect, it } from "vitest";
import { apply, centred, fit, flyTo, invert, pan, rulerSteps, TRUE_SCALE, zoomAt, type View } from "./view";

const views: View[] = [
  { scale: 1, x: 0, y: 0 },
  { scale: 7.3, x: -120, y: 44.5 },
  { scale: 0.2, x: 300, y: -9 },
];
const points = [
  { x: 0, y: 0 },
  { x: 12.5, y: -3 },
  { x: 1000, y: 777 },
];

describe("view", () => {
  it("inverts what it applies", () => {
    for (const view of views) {
      for (const point of points) {
        const back = invert(view, apply(view, point));
        expect(back.x).toBeCloseTo(point.x, 9);
        expect(back.y).toBeCloseTo(point.y, 9);
      }
    }
  });

  it("keeps the place under the pointer when zooming", () => {
    for (const view of views) {
      for (const factor of [0.5, 1.1, 3]) {
        const pointer = { x: 210, y: 95 };
        const before = invert(view, pointer);
        const after = invert(zoomAt(view, pointer, factor), pointer);
        expect(after.x).toBeCloseTo(before.x, 6);
        expect(after.y).toBeCloseTo(before.y, 6);
      }
    }
  });

  it("does not zoom past its limits", () => {
    let view: View = { scale: 1, x: 0, y: 0 };
    for (let k = 0; k < 100; k++) view = zoomAt(view, { x: 5, y: 5 }, 2);
    expect(view.scale).toBe(800);
    for (let k = 0; k < 100; k++) view = zoomAt(view, { x: 5, y: 5 }, 0.5);
    expect(view.scale).toBe(0.05);
  });

  it("fits a page inside the viewport, centred", () => {
    const viewport = { width: 820, height: 600 };
    for (const page of [
      { width: 100, height: 60 },
      { width: 30, height: 400 },
      { width: 2000, height: 10 },
    ]) {
      const view = fit(page, viewport);
      const a = apply(view, { x: 0, y: 0 });
      const b = apply(view, { x: page.width, y: page.height });
      expect(Math.min(a.x, a.y)).toBeGreaterThanOrEqual(27.99);
      expect(b.x).toBeLessThanOrEqual(viewport.width - 27.99);
      expect(b.y).toBeLessThanOrEqual(viewport.height - 27.99);
      expect(a.x + b.x).toBeCloseTo(viewport.width, 6);
      expect(a.y + b.y).toBeCloseTo(viewport.height, 6);
    }
  });

  it("draws 25.4 mm as 96 px at true size", () => {
    const view = centred({ width: 100, height: 100 }, { width: 500, height: 500 }, TRUE_SCALE);
    expect(apply(view, { x: 25.4, y: 0 }).x - apply(view, { x: 0, y: 0 }).x).toBeCloseTo(96, 9);
  });

  it("brings a place to the middle", () => {
    const viewport = { width: 800, height: 500 };
    const at = apply(flyTo({ x: 33, y: 12 }, 0.1, viewport), { x: 33, y: 12 });
    expect(at).toEqual({ x: 400, y: 250 });
  });

  it("pans by screen distance whatever the scale", () => {
    for (const view of views) {
      const moved = apply(pan(view, 3, -4), { x: 9, y: 9 });
      const before = apply(view, { x: 9, y: 9 });
      expect([moved.x - before.x, moved.y - before.y]).toEqual([expect.closeTo(3, 9), expect.closeTo(-4, 9)]);
    }
  });

  it("keeps ruler ticks readable at every scale", () => {
    for (let scale = 0.06; scale < 800; scale *= 1.3) {
      const { tick, long } = rulerSteps(scale);
      expect(tick * scale).toBeGreaterThanOrEqual(5);
      expect(long / tick === 5 || Math.abs(long / tick - 10) < 1e-9).toBe(true);
    }
  });
});
