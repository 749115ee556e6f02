import { expect, test } from "vitest";

import { charactersBefore } from "./columns";

test("a column in bytes is the right one in characters, whatever stands before it", () => {
  expect(charactersBefore("x = old()", 4)).toBe(4);
  expect(charactersBefore("    '…': old()", 11)).toBe(9);
  expect(charactersBefore("'夜明け' + old", 14)).toBe("'夜明け' + ".length);
  expect(charactersBefore("'🌅' + old", 9)).toBe("'🌅' + ".length);
  expect(charactersBefore("short", 99)).toBe(5);
});
