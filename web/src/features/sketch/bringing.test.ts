import { beforeEach, describe, expect, it } from "vitest";
import { useNotices } from "@/ui/notices";
import type { Motif } from "@/api/client";
import { forgetRefused, needsQuestion, sendAll, useBringing } from "./bringing";

const file = (name: string) => ({ name }) as File;
const forOne = (names: string[]) => names.map((name) => ({ motifId: 1, file: file(name) }));
const send = (sent: string[]) => (_: number, each: File) => {
  if (each.name.startsWith("bad")) return Promise.reject(new Error("not a picture"));
  sent.push(each.name);
  return Promise.resolve();
};

describe("bringing pictures in", () => {
  beforeEach(() => {
    forgetRefused();
    useNotices.setState({ notices: [] });
  });

  it("brings in all good ones and says why of each bad one", async () => {
    const sent: string[] = [];
    const names = Array.from({ length: 500 }, (_, k) => `${k % 7 === 3 ? "bad" : "good"}-${k}.png`);
    await sendAll(forOne(names), send(sent));
    expect(sent).toHaveLength(names.filter((name) => name.startsWith("good")).length);
    const { total, sent: done, refused } = useBringing.getState();
    expect([total, done]).toEqual([500, 500]);
    expect(refused).toHaveLength(500 - sent.length);
    expect(refused[0]).toEqual({ name: "bad-3.png", why: "not a picture" });
    expect(useNotices.getState().notices).toEqual([]);
  });

  it("tells of a single bad one in passing", async () => {
    await sendAll(forOne(["bad.png"]), send([]));
    expect(useBringing.getState().refused).toEqual([]);
    expect(useNotices.getState().notices[0]?.text).toBe("bad.png: not a picture");
  });
});

const gate = { id: 1, name: "Gate" } as Motif;

describe("needsQuestion", () => {
  it("asks of several whose sketches they are", () => {
    expect(needsQuestion(2, gate, true)).toBe(true);
    expect(needsQuestion(2, null, true)).toBe(true);
  });
  it("takes one picture for the motif that is looked at in Sketch", () => {
    expect(needsQuestion(1, gate, true)).toBe(false);
  });
  it("asks of one that is dropped while the motif is drawn already", () => {
    expect(needsQuestion(1, gate, false)).toBe(true);
  });
  it("makes a motif of the first picture of an empty collection", () => {
    expect(needsQuestion(1, null, false)).toBe(false);
  });
});
