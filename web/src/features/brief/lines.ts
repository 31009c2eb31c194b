/** The list of subjects as text: one a line, pose and note behind bars, switched off by a # in front. */
export interface LineChange {
  pose?: string;
  note?: string;
  on?: boolean;
}

/** What makes two lines the same subject; empty for a line that names none. */
export function lineKey(line: string): string {
  return (parts(line)[0] ?? "").toLowerCase();
}

/** Return the text with one subject's line changed. The first line of a subject is the one that counts. */
export function changeLine(text: string, subject: string, change: LineChange): string {
  const lines = text.split("\n");
  const at = indexOf(lines, subject);
  const line = lines[at];
  if (line === undefined) return text;
  const [name = "", pose = "", ...notes] = parts(line);
  const written = [name, change.pose ?? pose, change.note ?? notes.join(", ")].map(clean);
  while (written.length > 1 && written[written.length - 1] === "") written.pop();
  const on = change.on ?? !line.trim().startsWith("#");
  lines[at] = `${on ? "" : "# "}${written.join(" | ")}`;
  return lines.join("\n");
}

/** Return the text with one subject moved up (-1) or down (1) past its neighbour. */
export function moveLine(text: string, subject: string, by: -1 | 1): string {
  const lines = text.split("\n").filter((line) => lineKey(line) !== "");
  const at = indexOf(lines, subject);
  const [here, there] = [lines[at], lines[at + by]];
  if (here === undefined || there === undefined) return text;
  lines[at] = there;
  lines[at + by] = here;
  return lines.join("\n");
}

/** Return the text with subjects added at its end, but for those that are in it. */
export function addSubjects(text: string, subjects: string[]): string {
  const known = new Set(text.split("\n").map(lineKey));
  const fresh = subjects.filter((subject) => !known.has(subject.toLowerCase()));
  const before = text.trimEnd();
  return [...(before ? [before] : []), ...fresh.map((s) => s.charAt(0).toUpperCase() + s.slice(1))].join(
    "\n",
  );
}

function indexOf(lines: string[], subject: string): number {
  return lines.findIndex((line) => lineKey(line) === subject.toLowerCase());
}

function parts(line: string): string[] {
  return line
    .trim()
    .replace(/^#+/, "")
    .split("|")
    .map((part) => part.trim().replace(/\s+/g, " "));
}

const clean = (part: string) => part.replace(/[|\n]/g, " ").trim().replace(/\s+/g, " ");
