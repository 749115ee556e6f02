import { expect, it } from "vitest";

import type { Stage, TrackView, Way } from "../../api/types";
import { bracket, gridRows, pieces, scaleMarks } from "./track";

const track = (coordinate: string, named = true): TrackView => ({ coordinate, named, name: coordinate }) as unknown as TrackView;
const stage = (number: number, reached50: number, moved: Record<string, string> = {}, title = ""): Stage =>
  ({ number, reached50, title, cells: Object.entries(moved).map(([coordinate, line]) => ({ coordinate, line, moved: true })) }) as unknown as Stage;
const way = (stages: Stage[], strategy = "hop-by-hop"): Way => ({ strategy, stages }) as unknown as Way;
const tracks = [track("python"), track("django"), track("six", false)];

it("stages touch one another and never run backwards", () => {
  const found = pieces(way([stage(0, 2), stage(1, 3.5, { django: "4.2" }), stage(2, 3.4, { python: "3.13", django: "5.2", six: "1.17" })]), tracks);
  expect(found.map((p) => [p.from, p.to])).toEqual([[0, 2], [2, 3.5], [3.5, 3.5]]);
  expect(found.map((p) => p.label)).toEqual(["today", "4.2", "3.13 · 5.2"]);
  expect(found.map((p) => p.tone)).toEqual(["day", "amber", "rose"]);
});

it("a stage is called by its title, by what jumps, or by its packages", () => {
  expect(pieces(way([stage(0, 1), stage(1, 2, { python: "3.13" })], "direct"), tracks)[1]?.label).toBe("all at once");
  expect(pieces(way([stage(0, 1), stage(1, 2, {}, "both green")], "dual-run"), tracks)[1]?.label).toBe("both green");
  expect(pieces(way([stage(0, 1), stage(1, 2, { six: "1.17" })]), tracks)[1]?.label).toBe("packages");
});

it("marks are round and reach no further than the work", () => {
  expect(scaleMarks(11)).toEqual([0, 5, 10]);
  expect(scaleMarks(0.4)).toEqual([0, 0.1, 0.2, 0.3, 0.4]);
});

it("a bracket spans the rows it ties and needs two of them", () => {
  expect(bracket([3], 30)).toBeNull();
  expect(bracket([1, 4], 30)).toEqual({ top: 45, size: 90, path: "M0 0H12M0 90H12M12 0V90", square: 45 });
});

it("packages that never move stand apart from what travels", () => {
  const { shown, still } = gridRows(way([stage(0, 0), stage(1, 1, { python: "3.13" })]), tracks);
  expect(shown.map((t) => t.name)).toEqual(["python", "django"]);
  expect(still.map((t) => t.name)).toEqual(["six"]);
});
