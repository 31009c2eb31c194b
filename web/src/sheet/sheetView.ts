/** What only the screen knows of the sheet: where it is looked at. Kept while motifs and stages change. */
import { create } from "zustand";
import { centred, fit, flyTo, pan, TRUE_SCALE, zoomAt, type Point, type Size, type View } from "./view";

interface SheetView {
  view: View;
  viewport: Size;
  page: Size;
  /** As long as nobody has zoomed or panned, a new page or window size is fitted again. */
  fitted: boolean;
  setFrame: (page: Size, viewport: Size) => void;
  zoom: (at: Point, factor: number) => void;
  move: (dx: number, dy: number) => void;
  fitPage: () => void;
  trueSize: () => void;
  fly: (place: Point, sizeMm: number) => void;
}

const same = (a: Size, b: Size) => a.width === b.width && a.height === b.height;

export const useSheetView = create<SheetView>((set) => ({
  view: { scale: 4, x: 0, y: 0 },
  viewport: { width: 0, height: 0 },
  page: { width: 100, height: 60 },
  fitted: true,
  setFrame: (page, viewport) =>
    set((state) => {
      if (same(page, state.page) && same(viewport, state.viewport)) return state;
      const refit = state.fitted || !same(page, state.page);
      return { page, viewport, fitted: refit, view: refit ? fit(page, viewport) : state.view };
    }),
  zoom: (at, factor) => set((state) => ({ view: zoomAt(state.view, at, factor), fitted: false })),
  move: (dx, dy) => set((state) => ({ view: pan(state.view, dx, dy), fitted: false })),
  fitPage: () => set((state) => ({ view: fit(state.page, state.viewport), fitted: true })),
  trueSize: () => set((state) => ({ view: centred(state.page, state.viewport, TRUE_SCALE), fitted: false })),
  fly: (place, sizeMm) => set((state) => ({ view: flyTo(place, sizeMm, state.viewport), fitted: false })),
}));
