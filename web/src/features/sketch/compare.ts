/** Which sketches are put up for comparing, and the part of them that is looked at. */
import { create } from "zustand";

export const MOST_COMPARED = 3;

interface Compare {
  ids: number[];
  open: boolean;
}

export const useCompare = create<Compare>(() => ({ ids: [], open: false }));

/** Put a sketch up, or take it down; of more than three the oldest goes. */
export function toggled(ids: number[], id: number): number[] {
  return ids.includes(id) ? ids.filter((each) => each !== id) : [...ids, id].slice(-MOST_COMPARED);
}

export const toggleCompared = (id: number) =>
  useCompare.setState((state) => ({ ids: toggled(state.ids, id) }));
export const showCompared = (open: boolean) => useCompare.setState({ open });

/** A linked look at several pictures: times enlarged, and the middle in shares of the picture. */
export interface LinkedView {
  zoom: number;
  x: number;
  y: number;
}

export const WHOLE: LinkedView = { zoom: 1, x: 0.5, y: 0.5 };
const MOST_ZOOM = 16;

/** Enlarge about a place given in shares of the frame, so that what is under the pointer stays there. */
export function zoomedAt(view: LinkedView, at: { x: number; y: number }, factor: number): LinkedView {
  const zoom = Math.min(MOST_ZOOM, Math.max(1, view.zoom * factor));
  const held = { x: view.x + (at.x - 0.5) / view.zoom, y: view.y + (at.y - 0.5) / view.zoom };
  return kept({ zoom, x: held.x - (at.x - 0.5) / zoom, y: held.y - (at.y - 0.5) / zoom });
}

/** Move by shares of the frame. */
export const movedBy = (view: LinkedView, dx: number, dy: number): LinkedView =>
  kept({ ...view, x: view.x - dx / view.zoom, y: view.y - dy / view.zoom });

function kept({ zoom, x, y }: LinkedView): LinkedView {
  const half = 0.5 / zoom;
  const within = (v: number) => Math.min(1 - half, Math.max(half, v));
  return { zoom, x: within(x), y: within(y) };
}
