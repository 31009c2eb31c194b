import { describe, expect, it } from "vitest";
import { staysHere } from "./address";

describe("staysHere", () => {
  it.each([
    "",
    "http://127.0.0.1:7000/draw",
    "http://localhost/x",
    "http://[::1]:7000/",
    "not yet an address",
  ])("asks for nothing at %s", (address) => expect(staysHere(address)).toBe(true));
  it.each(["http://192.168.1.20:7000/draw", "https://pictures.example/draw", "http://localhost.example/"])(
    "asks for consent at %s",
    (address) => expect(staysHere(address)).toBe(false),
  );
});
