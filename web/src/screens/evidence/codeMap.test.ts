import { describe, expect, it } from "vitest";

import type { FileView, Finding } from "../../api/types";
import { shade, tiles, workByFile } from "./codeMap";
import { standing } from "./grouping";
import { commonFolder, layout, type Part } from "./moduleLayout";

const file = (path: string, lines: number): FileView => ({ path, lines, state: "scanned", reason: "", language: "Python", holds: 0, fails: 0, unknown: 0, role: "source" });
const finding = (places: [string, string, string][]): Finding => ({ key: "k", places: places.map(([file, role, level]) => ({ key: file, file, role, level, line: 1, column: 0, end_column: 1, symbol: "s", scope: "", guarded: "" })) }) as unknown as Finding;

describe("the map of the code", () => {
  const files = [file("app/a.py", 100), file("app/b.py", 300), file("app/sub/c.py", 100)];

  it("gives files areas in proportion to their lines, inside the map and apart from one another", () => {
    const laid = tiles(files, new Map([["app/b.py", 2]]), "", 400, 300).filter((t) => !t.folder);
    const area = (path: string) => { const t = laid.find((x) => x.path === path); return t ? t.width * t.height : 0; };
    expect(laid).toHaveLength(3);
    expect(area("app/b.py") / area("app/a.py")).toBeGreaterThan(2);
    for (const t of laid) expect(t.x >= 0 && t.y >= 0 && t.x + t.width <= 400.001 && t.y + t.height <= 300.001).toBe(true);
  });

  it("sums work up the folders and opens one folder", () => {
    expect(tiles(files, new Map([["app/sub/c.py", 3]]), "", 400, 300).find((t) => t.path === "app/sub")?.work).toBe(3);
    expect(tiles(files, new Map(), "app/sub", 400, 300).map((t) => t.path)).toEqual(["app/sub/c.py"]);
    expect(tiles([], new Map(), "", 400, 300)).toEqual([]);
  });

  it("counts places that are work, not notes", () => {
    expect(workByFile([finding([["a.py", "source", "error"], ["a.py", "source", "note"], ["b.py", "test", "warning"]])])).toEqual(new Map([["a.py", 1], ["b.py", 1]]));
  });

  it("darkens with the share of work", () => {
    expect([shade(0, 10), shade(1, 10), shade(3, 10), shade(9, 10)]).toEqual(["none", "little", "some", "much"]);
  });
});

describe("findings in some files", () => {
  const all = [finding([["app/a.py", "source", "error"], ["tests/b.py", "test", "error"]]), finding([["vendor/c.py", "vendored", "error"]])];

  it("keeps only places of that role, and findings that have one", () => {
    expect(standing(all, "test", "").map((f) => f.places.map((p) => p.file))).toEqual([["tests/b.py"]]);
    expect(standing(all, "other", "").map((f) => f.places.map((p) => p.file))).toEqual([["vendor/c.py"]]);
  });

  it("keeps only places below a folder, whole names only", () => {
    expect(standing(all, "anywhere", "app")).toHaveLength(1);
    expect(standing(all, "anywhere", "ap")).toHaveLength(0);
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
