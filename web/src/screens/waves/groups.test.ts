import { describe, expect, it } from "vitest";

import type { TeamWaves, WaveBar } from "../../api/types";
import { grouped } from "./groups";

const bar = (name: string, team: string, starts: string): WaveBar => ({
  key: `${name}|1|${team}`, application: name, name, set_name: "", number: 1, title: "Python 3.13", team, lane: 2, days: 3, days80: 4, starts, ends: starts, live: starts,
  p50: starts, p80: starts, p95: starts, late: null, taken: true, fixed: null, misplaced: false,
});
const wall = (...applications: string[]) => ({ coordinate: "p", short: "p", name: "Python", line: "3.9", end: "2027-01-01", chance: 0.5, past: false, applications, keys: [] });
const team = (name: string, ...stages: WaveBar[]): TeamWaves => ({ name, people: ["Ada 5"], days: 5, assumed: false, vendor: false, features: 0, capacity: [5], used: [1], stages, walls: [wall("desk")] });
const teams = [team("Sales", bar("portal", "Sales", "2027-01-04"), bar("desk", "Sales", "2026-12-07")), team("Platform", bar("desk", "Platform", "2026-12-07"))];

describe("groups of the waves", () => {
  it("keeps teams as they are", () => expect(grouped(teams, "team", "  ")).toBe(teams));
  it("keeps the stages that match every word", () => {
    expect(grouped(teams, "team", "python portal").map((t) => [t.name, t.stages.length])).toEqual([["Sales", 1]]);
    expect(grouped(teams, "team", "proposed")).toEqual([]);
  });
  it("gives an application of two teams one row, with its own ends only", () => {
    const rows = grouped(teams, "application", "");
    expect(rows.map((r) => [r.name, r.stages.length, r.people, r.walls.length])).toEqual([
      ["desk", 2, ["Sales", "Platform"], 2],
      ["portal", 1, ["Sales"], 0],
    ]);
    expect(rows[0]?.stages[0]?.lane).toBe(0);
  });
  it("puts a library over what waits for it, a lane each", () => {
    const bridge = { library: "desk", slug: "desk", team: "Sales", coordinate: "p", name: "Python", lines: ["3.9", "3.13"], since: null, until: null, users: ["portal"] };
    const rows = grouped(teams, "library", "", [bridge]);
    expect(rows.map((r) => [r.name, r.people, r.stages.map((b) => [b.name, b.lane])])).toEqual([["desk", ["portal"], [["desk", 0], ["desk", 0], ["portal", 1]]]]);
    expect(grouped(teams, "library", "")).toEqual([]);
  });
});
