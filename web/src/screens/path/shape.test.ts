import { expect, it } from "vitest";
import { shortOf } from "../../lib/coordinates";

import { bendOf, isBent, queryOf, toggled, unbent, withLine } from "./shape";

const at = (text: string) => new URLSearchParams(text);

it("a wish is added once and taken back by the same press", () => {
  const asked = toggled(at("way=work"), "pin", "python@3.11");
  expect(asked.toString()).toBe("way=work&pin=python%403.11");
  expect(toggled(asked, "pin", "python@3.11").toString()).toBe("way=work");
});

it("a coordinate has one pin; choosing another line replaces it", () => {
  const first = withLine(at("pin=python@3.10&pin=pypi/django@4.2"), "pin", "python", "3.11");
  expect(first.getAll("pin")).toEqual(["pypi/django@4.2", "python@3.11"]);
  expect(withLine(first, "pin", "python", "").getAll("pin")).toEqual(["pypi/django@4.2"]);
});

it("only what the search needs goes to the server, and everything can be put back", () => {
  const params = at("way=work&against=direct&set=web&out=python&order=python>pypi/django");
  expect(queryOf(params)).toBe("set=web&order=python%3Epypi%2Fdjango&out=python");
  expect(isBent(bendOf(params))).toBe(true);
  expect(isBent(bendOf(unbent(params)))).toBe(false);
});

it("purls are written short", () => {
  expect(["pkg:generic/python", "pkg:pypi/django", "pkg:npm/%40angular/core"].map(shortOf)).toEqual(["python", "pypi/django", "npm/@angular/core"]);
});
