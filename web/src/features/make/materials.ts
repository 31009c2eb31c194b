/** How blanks look, by the words a maker writes on them. */
export interface Material {
  ground: string;
  mark: string;
}

const MATERIALS: [RegExp, Material][] = [
  [/slate/i, { ground: "#3c4248", mark: "#e9e6dd" }],
  [/ply|birch|maple|wood/i, { ground: "#e6cfa4", mark: "#5a3a1e" }],
  [/oak|walnut|board/i, { ground: "#c8a06a", mark: "#4b2f18" }],
  [/acrylic|glass/i, { ground: "#dfeaf0", mark: "#5f7482" }],
  [/apron|shirt|cloth|denim|linen/i, { ground: "#e7e0cf", mark: "#24272b" }],
  [/tin|steel|lid/i, { ground: "#d5d7d8", mark: "#24272b" }],
];

export function materialOf(blank: string): Material {
  return MATERIALS.find(([words]) => words.test(blank))?.[1] ?? { ground: "#fffdf8", mark: "#24272b" };
}
