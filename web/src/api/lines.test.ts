import { afterEach, describe, expect, it, vi } from "vitest";
import { askLines } from "./lines";

function answering(chunks: string[], status = 200) {
  const stream = new ReadableStream({
    start(controller) {
      for (const chunk of chunks) controller.enqueue(new TextEncoder().encode(chunk));
      controller.close();
    },
  });
  vi.stubGlobal("fetch", () => Promise.resolve(new Response(stream, { status })));
}
afterEach(() => vi.unstubAllGlobals());

describe("askLines", () => {
  it("tells every line once, wherever the chunks were cut", async () => {
    answering(['{"n":1}\n{"n"', ":2}\n", '{"n":3}']);
    const heard: unknown[] = [];
    await askLines("/x", {}, (part) => heard.push(part));
    expect(heard).toEqual([{ n: 1 }, { n: 2 }, { n: 3 }]);
  });

  it("throws what the server says", async () => {
    answering(['{"code":"not_found","message":"There is no sketch 9."}'], 404);
    await expect(askLines("/x", {}, () => undefined)).rejects.toThrow("There is no sketch 9.");
  });

  it("says when the app is gone", async () => {
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("failed")));
    await expect(askLines("/x", {}, () => undefined)).rejects.toThrow("does not answer");
  });
});
