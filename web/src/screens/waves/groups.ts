/** Rows of the waves: teams as they are, or an application a row; only what matches the filter. */
import type { TeamWaves, WaveBar } from "../../api/types";

/** Whether every word stands in what a stage says. */
export function matches(bar: WaveBar, text: string): boolean {
  const whole = `${bar.name} ${bar.title} ${bar.team} ${bar.taken ? "adopted" : "proposed"}`.toLowerCase();
  return text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => whole.includes(word));
}

export function grouped(teams: TeamWaves[], group: string, text: string): TeamWaves[] {
  const kept = text.trim() === "" ? teams : teams.map((team) => ({ ...team, stages: team.stages.filter((bar) => matches(bar, text)) })).filter((team) => team.stages.length > 0);
  return group === "application" ? byApplication(kept) : kept;
}

function byApplication(teams: TeamWaves[]): TeamWaves[] {
  const rows = new Map<string, TeamWaves>();
  for (const team of teams) {
    for (const bar of team.stages) {
      const row = rows.get(bar.name) ?? { ...team, name: bar.name, people: [team.name], stages: [], walls: [], capacity: [], used: [] };
      row.stages = [...row.stages, { ...bar, lane: 0 }];
      if (!row.people.includes(team.name)) row.people = [...row.people, team.name];
      rows.set(bar.name, row);
    }
    for (const wall of team.walls) {
      for (const name of wall.applications) {
        const row = rows.get(name);
        if (row) row.walls = [...row.walls, wall];
      }
    }
  }
  return [...rows.values()].sort((a, b) => first(a).localeCompare(first(b)) || a.name.localeCompare(b.name));
}

const first = (team: TeamWaves) => team.stages[0]?.starts ?? "9999";
