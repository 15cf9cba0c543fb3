import { describe, expect, it } from "vitest";
import { apart } from "./apart";

const near = { name: "facial third", x: 100, y: 100, towards: 2 };
const far = { name: "fossa behind it", x: 104, y: 92, towards: -3 };
const away = { name: "ledge", x: 100, y: 160, towards: -5 };

describe("labels on the sheet", () => {
  it("of two that lie on one another the nearer stays, whatever their order", () => {
    expect(apart([far, near, away], 44, 30)).toEqual([near, away]);
    expect(apart([near, far, away], 44, 30)).toEqual([near, away]);
  });

  it("the chosen one stays in any case", () => {
    expect(apart([near, far, away], 44, 30, (l) => l === far)).toEqual([far, away]);
  });

  it("those that stand clear all stay, in their order", () => {
    expect(apart([away, near], 44, 30)).toEqual([away, near]);
  });
});
