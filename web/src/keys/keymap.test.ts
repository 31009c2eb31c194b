import { beforeAll, describe, expect, it, vi } from "vitest";

class Element {
  isContentEditable = false;
  constructor(readonly tagName: string) {}
}
beforeAll(() => vi.stubGlobal("HTMLElement", Element));

interface Pressed {
  key: string;
  code?: string;
  ctrl?: boolean;
  shift?: boolean;
  on?: string;
}

async function pressed({ key, code = "", ctrl = false, shift = false, on = "BODY" }: Pressed) {
  const { bindingFor } = await import("./keymap");
  const event = {
    key,
    code,
    ctrlKey: ctrl,
    metaKey: false,
    altKey: false,
    shiftKey: shift,
    target: new Element(on),
  };
  return bindingFor(event as unknown as KeyboardEvent)?.id;
}

describe("keymap", () => {
  it.each<[Pressed, string | undefined]>([
    [{ key: "1", code: "Digit1" }, "stage-0"],
    [{ key: "6", code: "Digit6" }, "stage-5"],
    [{ key: "[" }, "previous-motif"],
    [{ key: "f" }, "next-finding"],
    [{ key: "F", shift: true }, "next-finding"],
    [{ key: "m" }, "mend"],
    [{ key: "s" }, "show-sketch"],
    [{ key: "v" }, "veil"],
    [{ key: "t" }, "ladder"],
    [{ key: "s", ctrl: true }, undefined],
    [{ key: "0", code: "Digit0" }, "fit"],
    [{ key: ")", code: "Digit0", shift: true }, "true-size"],
    [{ key: "=", code: "Digit0", shift: true }, "true-size"],
    [{ key: "z", ctrl: true }, "undo"],
    [{ key: "Z", ctrl: true, shift: true }, "redo"],
    [{ key: "k", ctrl: true }, "go-to"],
    [{ key: "?", shift: true }, "key-sheet"],
    [{ key: "Delete" }, "delete"],
    [{ key: "y" }, undefined],
    [{ key: "x" }, "compare-show"],
  ])("hears %j as %s", async (keys, id) => expect(await pressed(keys)).toBe(id));

  it.each(["INPUT", "TEXTAREA", "SELECT"])("leaves keys alone while someone types in a %s", async (on) => {
    expect(await pressed({ key: "m", on })).toBeUndefined();
    expect(await pressed({ key: "z", ctrl: true, on })).toBeUndefined();
    expect(await pressed({ key: "k", ctrl: true, on })).toBe("go-to");
  });

  it("says what every key does, once", async () => {
    const { KEYMAP } = await import("./keymap");
    expect(new Set(KEYMAP.map((binding) => binding.id)).size).toBe(KEYMAP.length);
    expect(new Set(KEYMAP.map((binding) => binding.keys)).size).toBe(KEYMAP.length);
    expect(KEYMAP.every((binding) => binding.does.length > 3)).toBe(true);
  });
});
