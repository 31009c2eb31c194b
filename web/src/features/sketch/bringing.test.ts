import { beforeEach, describe, expect, it } from "vitest";
import { useNotices } from "@/ui/notices";
import { forgetRefused, sendAll, useBringing } from "./bringing";

const file = (name: string) => ({ name }) as File;
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
    await sendAll(1, names.map(file), send(sent));
    expect(sent).toHaveLength(names.filter((name) => name.startsWith("good")).length);
    const { total, sent: done, refused } = useBringing.getState();
    expect([total, done]).toEqual([500, 500]);
    expect(refused).toHaveLength(500 - sent.length);
    expect(refused[0]).toEqual({ name: "bad-3.png", why: "not a picture" });
    expect(useNotices.getState().notices).toEqual([]);
  });

  it("tells of a single bad one in passing", async () => {
    await sendAll(1, [file("bad.png")], send([]));
    expect(useBringing.getState().refused).toEqual([]);
    expect(useNotices.getState().notices[0]?.text).toBe("bad.png: not a picture");
  });
});
