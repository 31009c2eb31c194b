/** Answers that come in parts: one line of JSON each, told as soon as it is there. */
import { Problem } from "./client";

export async function askLines<Part>(
  url: string,
  body: unknown,
  tell: (part: Part) => void,
  signal?: AbortSignal,
): Promise<void> {
  const response = await fetch(url, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
    signal,
  }).catch((error: unknown) => {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new Problem(
      "offline",
      "The app does not answer. Is it still running? Start it again with make demo.",
    );
  });
  if (!response.ok || !response.body) {
    const said = (await response.json().catch(() => null)) as { code?: string; message?: string } | null;
    throw new Problem(
      said?.code ?? "http",
      said?.message ?? `The app answered with status ${response.status}. Try again.`,
    );
  }
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { value, done } = await reader.read();
    rest += value ?? "";
    const lines = rest.split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) if (line.trim()) tell(JSON.parse(line) as Part);
    if (done) break;
  }
  if (rest.trim()) tell(JSON.parse(rest) as Part);
}
