/** A motif's name from a file's: without ending and folder, words apart, the first letter large. */
export function motifName(fileName: string): string {
  const stem = (fileName.split(/[\\/]/).at(-1) ?? "").replace(/\.[A-Za-z0-9]{1,5}$/, "");
  const words = stem
    .replace(/[_\-.]+/g, " ")
    .replace(/\s+/g, " ")
    .trim();
  const name = words || "Motif";
  return (name.charAt(0).toUpperCase() + name.slice(1)).slice(0, 120);
}
