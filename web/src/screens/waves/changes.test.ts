import { describe, expect, it } from "vitest";

import { added, EMPTY, lines, onScale, removed } from "./changes";

describe("changes of a what-if", () => {
  const one = added(EMPTY, "capacity", { team: "Sales", person: "Cleo", days: 3, since: "2027-01-11" });
  const two = added(added(one, "drop", "desk"), "drop", "portal");
  it("are put together and told in words", () => {
    expect(lines(two).map((l) => l.words)).toEqual(["Cleo in Sales, 3 d a week from 2027-01-11", "without desk", "without portal"]);
  });
  it("are taken out one by one", () => {
    const line = lines(two)[1];
    expect(line && lines(removed(two, line)).map((l) => l.words)).toEqual(["Cleo in Sales, 3 d a week from 2027-01-11", "without portal"]);
  });
  it("stand on one scale with the plan there is", () => {
    const at = onScale("2026-12-01", ["2026-12-11", "2026-12-21", null]);
    expect([at("2026-12-01"), at("2026-12-11"), at("2026-12-21"), at(null)]).toEqual([0, 0.5, 1, null]);
  });
});
