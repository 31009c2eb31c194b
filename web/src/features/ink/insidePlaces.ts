import type { TracePreview, TraceSettings } from "@/api/client";

export type Place = TraceSettings["turned_inside"][number];

/** The places that are the other way, after one more was turned, or turned back. */
export function turned(places: Place[], place: TracePreview["inside"][number]): Place[] {
  // A rough trace sees a place a little off.
  const near = (each: Place) =>
    Math.hypot(each.x_px - place.x_px, each.y_px - place.y_px) ** 2 < place.area_px2 / 4;
  const rest = places.filter((each) => !near(each));
  return rest.length < places.length ? rest : [...places, { x_px: place.x_px, y_px: place.y_px }];
}
