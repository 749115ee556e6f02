import { describe, expect, it } from "vitest";

import type { Row } from "../../api/types";
import { grouped, matches, sorted } from "./rows";

const row = (name: string, more: Partial<Row> = {}): Row =>
  ({ name, slug: name, team: "", owner: "", destination: "", today: [], languages: [], state: "ready", arrived: false, clear: 0.5, arrival80: null, ...more }) as Row;

describe("the Horizon's rows", () => {
  it("match when every typed word occurs, in any field", () => {
    const berth = row("berth-planner", { team: "Harbour", today: [{ name: "Django", line: "3.2" } as Row["today"][number]] });
    expect(matches(berth, "harbour 3.2")).toBe(true);
    expect(matches(berth, "harbour 4.2")).toBe(false);
    expect(matches(berth, "team:harb")).toBe(true);
    expect(matches(berth, "team:sales")).toBe(false);
    expect(matches(row("app-1", { team: "Team 2" }), 'team:"team 1"')).toBe(false);
    expect(matches(row("app-2", { team: "Team 1" }), 'team:"team 1"')).toBe(true);
  });

  it("put what has no figure last, whatever the order", () => {
    const rows = [row("a", { clear: null }), row("b", { clear: 0.9 }), row("c", { clear: 0.1 })];
    expect(sorted(rows, "clear").map((r) => r.name)).toEqual(["c", "b", "a"]);
  });

  it("keep their order inside a group, and lose none", () => {
    const rows = [row("x", { team: "B" }), row("y", { team: "A" }), row("z", { team: "B" })];
    const lines = grouped(rows, "team");
    expect(lines.map((l) => (l.kind === "head" ? l.title : l.row.name))).toEqual(["B", "x", "z", "A", "y"]);
  });
});
