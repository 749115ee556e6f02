import { describe, expect, it } from "vitest";

import { sourceOf } from "./sources";

describe("what a report is about", () => {
  it("is the portfolio, an application, a board's or a team's page, or what changed", () => {
    expect(sourceOf("").page).toMatch(/reports\/portfolio$/);
    expect(sourceOf("desk").forms.map((f) => f.word)).toEqual(["Page", "CSV", "SARIF", "Inventory", "Waivers"]);
    expect(sourceOf("board").page).toMatch(/reports\/board\?team=$/);
    expect(sourceOf("team:Engine room: night").page).toMatch(/team=Engine%20room%3A%20night$/);
    expect(sourceOf("digest:7").forms.map((f) => f.word)).toEqual(["Page", "Mail", "Feed"]);
  });
});
