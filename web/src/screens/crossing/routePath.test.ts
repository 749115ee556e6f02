import { expect, test } from "vitest";

import { inPieces } from "./routePath";

test("the last two segments tell a route apart", () => {
  expect(inPieces("/orga/event/{event}/submissions/new")).toEqual(["/orga/event/{event}", "/submissions/new"]);
  expect(inPieces("/api/events/{event}/answers/{pk}/")).toEqual(["/api/events/{event}", "/answers/{pk}/"]);
});

test("a short path is one piece", () => {
  for (const path of ["/", "", "/api/", "/api/me", "*"]) expect(inPieces(path)).toEqual(["", path]);
});

test("nothing is lost between the pieces", () => {
  for (const path of ["/a/b/c", "/a//b/", "//a/b/c//", "/a/b/c/d"]) expect(inPieces(path).join("")).toBe(path);
});
