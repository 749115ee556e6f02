import { expect, test } from "vitest";

import { moved } from "./order";

test("one element moves, and none is lost", () => {
  expect(moved(["a", "b", "c"], 0, 2)).toEqual(["b", "c", "a"]);
  expect(moved(["a", "b", "c"], 2, 0)).toEqual(["c", "a", "b"]);
  expect(moved(["a", "b"], 5, 0)).toEqual(["a", "b"]);
  expect(moved(["a", "b"], 0, -3)).toEqual(["a", "b"]);
});
