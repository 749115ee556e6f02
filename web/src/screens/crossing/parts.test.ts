import { describe, expect, it } from "vitest";

import type { PartBox } from "../../api/types";
import { COLUMN, curve, extent, HEIGHT, placed, ROW, touching, WIDTH } from "./parts";

const box = (name: string, depth: number): PartBox => ({ file: "quay/fares.py", line: 1, name, lines: 5, depth, others: 0, choice: "bring" });

describe("the parts of a route", () => {
  it("stand in the column of their depth, one below the other", () => {
    const all = placed([box("fares", 0), box("fare", 1), box("children", 1), box("cents", 2)]);
    expect(all.map(({ x, y }) => [x, y])).toEqual([
      [0, 0],
      [COLUMN, 0],
      [COLUMN, ROW],
      [2 * COLUMN, 0],
    ]);
    expect(extent(all)).toEqual({ width: 2 * COLUMN + WIDTH, height: ROW + HEIGHT });
    expect(extent([])).toEqual({ width: 0, height: 0 });
  });

  it("are joined from right to left edge, and around where a line goes back", () => {
    const at = (x: number, y: number) => ({ box: box("any", 0), x, y });
    expect(curve(at(0, 0), at(COLUMN, 0))).toMatch(new RegExp(`^M${WIDTH} .*${COLUMN} ${HEIGHT / 2}$`));
    expect(curve(at(COLUMN, 0), at(COLUMN, ROW))).toMatch(new RegExp(`^M${COLUMN + WIDTH} .* ${COLUMN + WIDTH} ${ROW + HEIGHT / 2}$`));
  });

  it("know which others they touch", () => {
    expect(
      touching(
        [
          { source: 0, target: 1 },
          { source: 2, target: 0 },
          { source: 1, target: 2 },
        ],
        0,
      ),
    ).toEqual(new Set([1, 2]));
  });
});
