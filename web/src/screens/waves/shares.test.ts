import { describe, expect, it } from "vitest";

import { readShares, writeShares } from "./shares";

describe("shares of teams", () => {
  it("are read as they are written", () => {
    expect(readShares("Sales 70, Engine room 30 %")).toEqual({ Sales: 0.7, "Engine room": 0.3 });
    expect(writeShares({ Sales: 0.7, "Engine room": 0.3 })).toBe("Sales 70, Engine room 30");
  });
  it("are equal where no figures are given, and none for one team alone", () => {
    expect(readShares("Sales, Platform")).toEqual({ Sales: 0.5, Platform: 0.5 });
    expect(readShares(" ")).toEqual({});
    expect(writeShares({ Sales: 1 })).toBe("");
  });
});
