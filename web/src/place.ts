/** Where the maker is: collection, motif, stage. Kept in the address, so that a reload stays there. */
import { create } from "zustand";
import { STAGES, type Stage } from "./stages";

export { STAGES, stageTitle, type Stage } from "./stages";

interface PlaceState {
  collectionId: number | null;
  motifId: number | null;
  /** The sketch that is looked at in Sketch and traced in Ink. */
  sketchId: number | null;
  stage: Stage;
}

export function parsePlace(hash: string): PlaceState {
  const parts = hash.replace(/^#\/?/, "").split("/");
  const number = (name: string) => {
    const at = parts.indexOf(name);
    const value = at >= 0 ? Number(parts[at + 1]) : NaN;
    return Number.isInteger(value) && value > 0 ? value : null;
  };
  const last = parts[parts.length - 1] as Stage;
  return {
    collectionId: number("collection"),
    motifId: number("motif"),
    sketchId: number("sketch"),
    stage: STAGES.includes(last) ? last : "brief",
  };
}

export function formatPlace(place: PlaceState): string {
  const parts: (string | number)[] = [];
  if (place.collectionId) parts.push("collection", place.collectionId);
  if (place.motifId) parts.push("motif", place.motifId);
  if (place.sketchId) parts.push("sketch", place.sketchId);
  return `#/${[...parts, place.stage].join("/")}`;
}

export const usePlace = create<PlaceState>(() => parsePlace(window.location.hash));

usePlace.subscribe((state) => {
  const hash = formatPlace(state);
  if (hash !== window.location.hash) window.history.replaceState(null, "", hash);
});
window.addEventListener("hashchange", () => usePlace.setState(parsePlace(window.location.hash)));

export const goToStage = (stage: Stage) => usePlace.setState({ stage });
export const goToMotif = (motifId: number | null) =>
  usePlace.setState((state) => (state.motifId === motifId ? state : { motifId, sketchId: null }));
export const goToSketch = (motifId: number, sketchId: number) => usePlace.setState({ motifId, sketchId });
export const goToCollection = (collectionId: number) =>
  usePlace.setState({ collectionId, motifId: null, sketchId: null });
