/** The stages, in the order of the work. */
export const STAGES = ["brief", "sketch", "ink", "proof", "make", "pack"] as const;
export type Stage = (typeof STAGES)[number];

export const stageTitle = (stage: Stage) => stage.charAt(0).toUpperCase() + stage.slice(1);
