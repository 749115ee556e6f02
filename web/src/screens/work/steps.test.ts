import { expect, it } from "vitest";

import type { Step } from "../../api/types";
import { listed } from "./steps";

const step = (id: number, more: Partial<Step> = {}): Step =>
  ({ id, title: `t${id}`, slug: "a", application: "a", team: "", owner: "", state: "open", note: "", due: null, stage: 0, waived: false, ...more }) as Step;
const all = { slug: null, whose: "everyone", states: "open", me: "Ines", text: "" } as const;

it("what was found again comes before every date", () => {
  const found = listed([step(1, { due: "2026-01-01" }), step(2, { state: "reopened" }), step(3)], all);
  expect(found.map((s) => s.id)).toEqual([2, 1, 3]);
});

it("mine are those with my name, whatever its case", () => {
  expect(listed([step(1, { owner: "ines" }), step(2, { owner: "Jon" })], { ...all, whose: "me" }).map((s) => s.id)).toEqual([1]);
});

it("waived and closed steps are not open", () => {
  expect(listed([step(1, { waived: true }), step(2, { state: "closed" }), step(3)], all).map((s) => s.id)).toEqual([3]);
});
