import { expect, test } from "vitest";

import { pairs, parts, type Row, shortened, without } from "./choice";

const row = (kind: Row["kind"], text: string, made: Partial<Row> = {}): Row => ({ kind, text, old: 0, new: 0, beside: 0, marks: [], ...made });

test("a tick puts in and takes out, and leaves the set it came from alone", () => {
  const chosen = new Set(["a"]);
  expect([...without(chosen, "b")]).toEqual(["a", "b"]);
  expect([...without(chosen, "a")]).toEqual([]);
  expect([...chosen]).toEqual(["a"]);
});

test("a new name shows what is new in it", () => {
  expect(shortened("base64.encodestring", "base64.encodebytes")).toBe("encodebytes");
  expect(shortened("collections.Mapping", "collections.abc.Mapping")).toBe("collections.abc.Mapping");
  expect(shortened("unicode", "str")).toBe("str");
});

test("a row is cut at its marks and nothing of it is lost", () => {
  expect(parts("import a", [[7, 8]])).toEqual([
    { text: "import ", marked: false },
    { text: "a", marked: true },
  ]);
  expect(parts("", [])).toEqual([{ text: "", marked: false }]);
});

test("what went stands beside what came of it, and a lone row beside nothing", () => {
  const rows = [row("same", "x"), row("gone", "a"), row("gone", "b", { beside: 8 }), row("new", "c", { new: 7 }), row("new", "d", { new: 8 }), row("same", "y"), row("new", "z")];
  expect(pairs(rows).map(([left, right]) => [left?.text ?? null, right?.text ?? null])).toEqual([
    ["x", "x"],
    ["a", null],
    [null, "c"],
    ["b", "d"],
    ["y", "y"],
    [null, "z"],
  ]);
});
