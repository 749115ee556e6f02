/** Rows of the waves: teams as they are, or an application a row; only what matches the filter. */
import type { TeamWaves, WaveBar, WavesView } from "../../api/types";

/** Whether every word stands in what a stage says. */
export function matches(bar: WaveBar, text: string): boolean {
  const whole = `${bar.name} ${bar.title} ${bar.team} ${bar.taken ? "adopted" : "proposed"}`.toLowerCase();
  return text
    .toLowerCase()
    .split(/\s+/)
    .every((word) => whole.includes(word));
}

/** ``bridges``: libraries with their users, for the rows of “library”. */
export function grouped(teams: TeamWaves[], group: string, text: string, bridges: WavesView["bridges"] = []): TeamWaves[] {
  const kept = text.trim() === "" ? teams : teams.map((team) => ({ ...team, stages: team.stages.filter((bar) => matches(bar, text)) })).filter((team) => team.stages.length > 0);
  if (group === "library") return byLibrary(kept, bridges);
  return group === "application" ? byApplication(kept) : kept;
}

/** A library of our own with all that waits for it, each application on a lane of its own, the library first. */
function byLibrary(teams: TeamWaves[], bridges: WavesView["bridges"]): TeamWaves[] {
  const rows = byApplication(teams);
  return [...new Set(bridges.map((bridge) => bridge.library))].sort().flatMap((library) => {
    const names = [library, ...new Set(bridges.filter((bridge) => bridge.library === library).flatMap((bridge) => bridge.users))];
    const held = names.flatMap((name) => rows.filter((row) => row.name === name));
    const first = held[0];
    if (!first) return [];
    const stages = held.flatMap((row, lane) => row.stages.map((bar) => ({ ...bar, lane })));
    return [{ ...first, name: library, people: names.slice(1), stages, walls: held.flatMap((row) => row.walls) }];
  });
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
