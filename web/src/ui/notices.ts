/** Sentences shown for a moment above the tape: what went wrong, or what was done. */
import { create } from "zustand";

export interface Notice {
  id: number;
  text: string;
  kind: "problem" | "done";
}

interface Notices {
  notices: Notice[];
  dismiss: (id: number) => void;
}

const SHOWN_MS = { problem: 12_000, done: 3_500 };
let next = 1;

export const useNotices = create<Notices>((set) => ({
  notices: [],
  dismiss: (id) => set((state) => ({ notices: state.notices.filter((notice) => notice.id !== id) })),
}));

function say(text: string, kind: Notice["kind"]) {
  const id = next++;
  useNotices.setState((state) => ({
    notices: [...state.notices.filter((notice) => notice.text !== text).slice(-2), { id, text, kind }],
  }));
  setTimeout(() => useNotices.getState().dismiss(id), SHOWN_MS[kind]);
}

export const tellDone = (text: string) => say(text, "done");
export const tellProblem = (error: unknown) =>
  say(error instanceof Error ? error.message : "Something went wrong. Try again.", "problem");
