/** Keys as data: one table feeds the handlers, the key sheet and the tooltips. */
import type { Stage } from "@/stages";

export interface KeyBinding {
  id: string;
  keys: string;
  does: string;
  /** The stages it does something in; everywhere without. */
  stages?: readonly Stage[];
  /** How the browser reports it. */
  match: (event: KeyboardEvent) => boolean;
}

const plain = (key: string) => (event: KeyboardEvent) =>
  event.key.toLowerCase() === key && !event.ctrlKey && !event.metaKey && !event.altKey;
const withCtrl = (key: string, shift: boolean) => (event: KeyboardEvent) =>
  (event.ctrlKey || event.metaKey) && event.shiftKey === shift && event.key.toLowerCase() === key;

export const KEYMAP: KeyBinding[] = [
  ...["Brief", "Sketch", "Ink", "Proof", "Make", "Pack"].map((name, index) => ({
    id: `stage-${index}`,
    keys: String(index + 1),
    does: `Go to ${name}`,
    match: plain(String(index + 1)),
  })),
  { id: "previous-motif", keys: "[", does: "Previous motif", match: plain("[") },
  { id: "next-motif", keys: "]", does: "Next motif", match: plain("]") },
  { id: "rename-motif", keys: "F2", does: "Rename the motif", match: plain("f2") },
  { id: "next-finding", keys: "F", does: "Next finding", stages: ["ink", "proof"], match: plain("f") },
  {
    id: "mend-all",
    keys: "Shift+M",
    does: "Mend all that can be without asking",
    stages: ["proof"],
    match: (e) => e.shiftKey && plain("m")(e),
  },
  { id: "mend", keys: "M", does: "Mend the chosen finding", stages: ["proof"], match: plain("m") },
  { id: "next-shape", keys: ".", does: "Select the next shape", stages: ["proof"], match: plain(".") },
  { id: "previous-shape", keys: ",", does: "Select the shape before", stages: ["proof"], match: plain(",") },
  {
    id: "delete",
    keys: "Delete",
    does: "Delete the selected shapes",
    stages: ["proof"],
    match: (e) => e.key === "Delete" || e.key === "Backspace",
  },
  {
    id: "show-sketch",
    keys: "hold S",
    does: "Show the sketch instead of the drawing",
    stages: ["ink", "proof"],
    match: plain("s"),
  },
  {
    id: "veil",
    keys: "V",
    does: "Lay the veil over the sketch: how far off, where",
    stages: ["ink", "proof"],
    match: plain("v"),
  },
  {
    id: "ladder",
    keys: "T",
    does: "Climb the ladder: plain to detailed",
    stages: ["ink"],
    match: plain("t"),
  },
  {
    id: "sketch-next",
    keys: "→",
    does: "Next sketch",
    stages: ["sketch"],
    match: (e) => e.key === "ArrowRight" && !e.ctrlKey,
  },
  {
    id: "sketch-previous",
    keys: "←",
    does: "Previous sketch",
    stages: ["sketch"],
    match: (e) => e.key === "ArrowLeft" && !e.ctrlKey,
  },
  { id: "keep", keys: "K", does: "Keep the sketch, or set it aside", stages: ["sketch"], match: plain("k") },
  {
    id: "compare",
    keys: "C",
    does: "Put the sketch up for comparing",
    stages: ["sketch"],
    match: plain("c"),
  },
  {
    id: "compare-show",
    keys: "X",
    does: "Compare what was put up, large",
    stages: ["sketch"],
    match: plain("x"),
  },
  {
    id: "reference",
    keys: "R",
    does: "Use the sketch as the set's reference",
    stages: ["sketch"],
    match: plain("r"),
  },
  {
    id: "near",
    keys: "N",
    does: "Draw near variations of the sketch",
    stages: ["sketch"],
    match: plain("n"),
  },
  { id: "far", keys: "G", does: "Draw far variations of the sketch", stages: ["sketch"], match: plain("g") },
  {
    id: "to-ink",
    keys: "Enter",
    does: "Take the sketch to Ink",
    stages: ["sketch"],
    match: (e) => e.key === "Enter" && !e.ctrlKey,
  },
  {
    id: "fit",
    keys: "0",
    does: "Fit the sheet",
    stages: ["ink", "proof", "make"],
    match: (e) => e.code === "Digit0" && !e.shiftKey && !e.ctrlKey && !e.metaKey,
  },
  {
    id: "true-size",
    keys: "Shift+0",
    does: "True size",
    stages: ["ink", "proof", "make"],
    match: (e) => e.code === "Digit0" && e.shiftKey,
  },
  { id: "undo", keys: "Ctrl+Z", does: "Undo", stages: ["proof"], match: withCtrl("z", false) },
  { id: "redo", keys: "Ctrl+Shift+Z", does: "Redo", stages: ["proof"], match: withCtrl("z", true) },
  { id: "go-to", keys: "Ctrl+K", does: "Go to anything", match: withCtrl("k", false) },
  { id: "key-sheet", keys: "?", does: "This key sheet", match: (e) => e.key === "?" },
];

/** Return the binding that an event is for; nothing while someone is typing, but for Ctrl+K. */
export function bindingFor(event: KeyboardEvent): KeyBinding | undefined {
  const target = event.target;
  const typing =
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
  const found = KEYMAP.find((binding) => binding.match(event));
  // A button under the focus has Enter for itself, and what has a cursor has the arrows.
  const busy =
    target instanceof HTMLElement &&
    ((found?.id === "to-ink" && target.closest("button, a, [role=option]") !== null) ||
      (found?.id.startsWith("sketch-") && target.closest("[role=slider], [role=group], [role=radiogroup]")));
  return (typing && found?.id !== "go-to") || busy ? undefined : found;
}
