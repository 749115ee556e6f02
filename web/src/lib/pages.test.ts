import { expect, it } from "vitest";

import { PAGE } from "../api/queries";
import { pagesOf } from "./pages";

it("asks for the pages in sight and no other", () => {
  expect(pagesOf(0, 12)).toEqual([0]);
  expect(pagesOf(PAGE - 1, PAGE)).toEqual([0, 1]);
  expect(pagesOf(5 * PAGE, 5 * PAGE + 3)).toEqual([5]);
  expect(pagesOf(3, 0)).toEqual([0]);
});
