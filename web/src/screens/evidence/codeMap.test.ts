import { describe, expect, it } from "vitest";

import type { MappedFile } from "../../api/types";
import { shade, tiles } from "./codeMap";
import { commonFolder, layout, type Part } from "./moduleLayout";

const file = (path: string, lines: number, work = 0): MappedFile => ({ path, lines, work, role: "source" });

describe("the map of the code", () => {
  const files = [file("app/a.py", 100), file("app/b.py", 300), file("app/sub/c.py", 100, 3)];

  it("gives files areas in proportion to their lines, inside the map and apart from one another", () => {
    const laid = tiles(files, "", 400, 300).filter((t) => !t.folder);
    const area = (path: string) => { const t = laid.find((x) => x.path === path); return t ? t.width * t.height : 0; };
    expect(laid).toHaveLength(3);
    expect(area("app/b.py") / area("app/a.py")).toBeGreaterThan(2);
    for (const t of laid) expect(t.x >= 0 && t.y >= 0 && t.x + t.width <= 400.001 && t.y + t.height <= 300.001).toBe(true);
  });

  it("sums work up the folders and opens one folder", () => {
    expect(tiles(files, "", 400, 300).find((t) => t.path === "app/sub")?.work).toBe(3);
    expect(tiles(files, "app/sub", 400, 300).map((t) => t.path)).toEqual(["app/sub/c.py"]);
    expect(tiles([], "", 400, 300)).toEqual([]);
  });

  it("darkens with the share of work", () => {
    expect([shade(0, 10), shade(1, 10), shade(3, 10), shade(9, 10)]).toEqual(["none", "little", "some", "much"]);
  });
});

describe("the graph of folders", () => {
  const part = (path: string, level: number, cycle = 0): Part => ({ path, files: 1, lines: 10, cycle, level, fails: 0, holds: 1 });

  it("puts users above what they use and nothing over anything else", () => {
    const { boxes, lines } = layout([part("x/web", 1), part("x/data", 0), part("x/base", 0)], [{ source: "x/web", target: "x/data", count: 2 }], 900);
    const y = (path: string) => boxes.find((b) => b.path === path)?.y ?? 0;
    expect(y("x/web")).toBeLessThan(y("x/data"));
    expect(boxes.map((b) => b.label)).toEqual(["web", "data", "base"]);
    expect(lines[0]?.back).toBe(false);
    for (const a of boxes) for (const b of boxes) if (a !== b && a.y === b.y) expect(a.x + a.width <= b.x || b.x + b.width <= a.x).toBe(true);
  });

  it("breaks a row that is too wide", () => {
    const { boxes } = layout(Array.from({ length: 12 }, (_, i) => part(`x/folder-number-${i}`, 0)), [], 500);
    expect(Math.max(...boxes.map((b) => b.x + b.width))).toBeLessThanOrEqual(500);
    expect(new Set(boxes.map((b) => b.y)).size).toBeGreaterThan(1);
  });

  it("draws the two directions of a loop apart from each other, inside the picture", () => {
    const { lines, boxes, height } = layout([part("x/a", 0, 1), part("x/b", 0, 1)], [{ source: "x/a", target: "x/b", count: 1 }, { source: "x/b", target: "x/a", count: 4 }], 900);
    const heights = lines.map((l) => l.d.match(/-?[\d.]+/g)?.map(Number).filter((_, i) => i % 2 === 1) ?? []);
    const [above, below] = heights;
    expect(Math.max(...(above ?? []))).toBeLessThanOrEqual(boxes[0]?.y ?? 0);
    expect(Math.min(...(below ?? []))).toBeGreaterThanOrEqual((boxes[0]?.y ?? 0) + (boxes[0]?.height ?? 0));
    for (const y of heights.flat()) expect(y >= 0 && y <= height).toBe(true);
  });

  it("finds what all folders share", () => {
    expect(commonFolder(["a/b/c", "a/b/d"])).toBe("a/b");
    expect(commonFolder(["a", "b"])).toBe("");
  });
});
