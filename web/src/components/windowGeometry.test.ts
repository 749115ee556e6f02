import { describe, expect, it } from "vitest";

import type { WindowView } from "../api/types";
import { compareLines, runs, windowShape } from "./windowGeometry";

const view = (more: Partial<WindowView>): WindowView => ({ state: "now", coordinate: "x", axis: ["3.2", "4.0", "4.1", "4.2"], old: ["3.2"], new: ["3.2", "4.0", "4.1", "4.2"], both: ["3.2"], here: "3.2", goal: "4.2", ...more });

describe("a window bar", () => {
  it("ends the old way with a bite where it is lost", () => {
    const shape = windowShape(view({}), 400);
    expect(shape.bite).toBe(100);
    expect(shape.both).toEqual([{ x: 0, width: 100 }]);
  });

  it("has no bite when the old way lasts to the end", () => {
    expect(windowShape(view({ old: ["4.1", "4.2"] }), 400).bite).toBeNull();
  });

  it("joins neighbouring lines and keeps apart what comes back", () => {
    expect(runs(["1", "2", "3", "4"], ["1", "2", "4"], 10)).toEqual([{ x: 0, width: 20 }, { x: 30, width: 10 }]);
  });

  it("orders lines by number, not by letter", () => {
    expect(["3.10", "3.9", "3.2"].sort(compareLines)).toEqual(["3.2", "3.9", "3.10"]);
  });
});
