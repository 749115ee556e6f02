import { expect, it } from "vitest";

import type { Stage } from "../../api/types";
import { pieces, scaleMarks } from "./track";

const stage = (number: number, reached50: number, goals: string[] = []): Stage => ({ number, reached50, moves: goals.map((goal) => ({ goal })) }) as unknown as Stage;

it("stages touch one another and never run backwards", () => {
  const found = pieces([stage(0, 2), stage(1, 3.5, ["4.2"]), stage(2, 3.4, ["5.2", "3.13"])]);
  expect(found.map((p) => [p.from, p.to])).toEqual([[0, 2], [2, 3.5], [3.5, 3.5]]);
  expect(found.map((p) => p.label)).toEqual(["today", "4.2", "5.2 · 3.13"]);
});

it("marks are round and reach no further than the work", () => {
  expect(scaleMarks(11)).toEqual([0, 5, 10]);
  expect(scaleMarks(0.4)).toEqual([0, 0.1, 0.2, 0.3, 0.4]);
});
