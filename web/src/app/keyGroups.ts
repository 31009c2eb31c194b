/** The keys in groups, those that work in a stage first. */
import type { KeyBinding } from "@/keys/keymap";
import { stageTitle, type Stage } from "@/stages";

interface Row {
  keys: string;
  does: string;
}

export interface KeyGroup {
  title: string;
  /** Whether it is about the stage that is on screen. */
  here: boolean;
  rows: Row[];
}

/** Stages with a sheet, which the pointer moves. */
const SHEETS: readonly Stage[] = ["ink", "proof", "make"];
const POINTER: Row[] = [
  { keys: "Space", does: "Pan while held (or the middle button)" },
  { keys: "Wheel", does: "Zoom to the pointer" },
];

export function keyGroups(keymap: readonly KeyBinding[], here: Stage, stages: readonly Stage[]): KeyGroup[] {
  const of = (stage: Stage): Row[] => [
    ...keymap.filter((binding) => binding.stages?.includes(stage)),
    ...(SHEETS.includes(stage) ? POINTER : []),
  ];
  const groups: KeyGroup[] = [
    { title: `Here in ${stageTitle(here)}`, here: true, rows: of(here) },
    { title: "Everywhere", here: true, rows: keymap.filter((binding) => !binding.stages) },
    ...stages
      .filter((stage) => stage !== here)
      .map((stage) => ({ title: `In ${stageTitle(stage)}`, here: false, rows: of(stage) })),
  ];
  return groups.filter((group) => group.rows.length > 0);
}
