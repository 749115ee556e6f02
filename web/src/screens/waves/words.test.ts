import { describe, expect, it } from "vitest";

import { chance, listed, slip } from "./words";

describe("words of the waves", () => {
  it("never rounds a chance to certainty", () => {
    expect([0, 0.004, 0.24, 0.994, 1].map(chance)).toEqual(["0 %", "under 1 %", "24 %", "over 99 %", "100 %"]);
  });
  it("says which way something slips", () => {
    expect([12, -3, 0, null].map(slip)).toEqual(["12 d later", "3 d sooner", "the same day", "never"]);
  });
  it("joins lines as a sentence has them", () => {
    expect([listed([]), listed(["3.6"]), listed(["3.6", "3.9", "3.13"])]).toEqual(["", "3.6", "3.6, 3.9 and 3.13"]);
  });
});
