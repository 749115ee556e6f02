import { expect, it } from "vitest";

import type { Edited, Row } from "../../api/types";
import { colliding, newest, takenBack } from "./changes";

const edited = (slug: string, owner: string, version: number): Edited => ({ slug, name: slug, owner, team: "", destination: "d", days_per_week: null, version });
const seen = [{ slug: "a", owner: "Ines", team: "Quay" }, { slug: "b", owner: "", team: "" }] as Row[];

it("collides only where somebody set the same field to something else", () => {
  expect(colliding(seen, [edited("a", "Jon", 3), edited("b", "", 2)], "owner", "Mara").map((now) => now.slug)).toEqual(["a"]);
  expect(colliding(seen, [edited("a", "Mara", 3)], "owner", "Mara")).toEqual([]);
  expect(colliding(seen, [edited("a", "Jon", 3)], "days_per_week", "2")).toEqual([]);
});

it("brings each application back to what it was, on the version that there is now", () => {
  const changes = [
    { before: edited("a", "Ines", 1), after: edited("a", "Jon", 2) },
    { before: edited("b", "", 4), after: edited("b", "Jon", 5) },
    { before: edited("c", "Ines", 1), after: edited("c", "Jon", 9) },
  ];
  expect(takenBack(changes, "owner")).toEqual([
    { applications: ["a", "c"], versions: { a: 2, c: 9 }, owner: "Ines" },
    { applications: ["b"], versions: { b: 5 }, owner: "" },
  ]);
});

it("begins on a row as it was last seen, whichever window holds it", () => {
  const rows = [{ slug: "a", version: 3 }, { slug: "b", version: 1 }, { slug: "a", version: 2 }] as Row[];
  expect(newest(rows).map((row) => [row.slug, row.version])).toEqual([["a", 3], ["b", 1]]);
});
