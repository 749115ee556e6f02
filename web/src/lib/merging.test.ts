import { expect, it } from "vitest";

import { merge } from "./merging";

const base = { owner: "Ines", due: "", note: "old" };

it("puts together what different people changed in different fields", () => {
  const made = merge(base, { ...base, note: "mine" }, { ...base, owner: "Jon" });
  expect(made).toEqual({ merged: { owner: "Jon", due: "", note: "mine" }, collisions: [] });
});

it("names what both changed, and keeps mine until somebody decides", () => {
  const made = merge(base, { ...base, note: "mine" }, { ...base, note: "theirs" });
  expect(made).toEqual({ merged: { ...base, note: "mine" }, collisions: ["note"] });
});

it("sees no collision where both wrote the same", () => {
  expect(merge(base, { ...base, note: "x" }, { ...base, note: "x" }).collisions).toEqual([]);
});
