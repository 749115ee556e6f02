import { expect, test } from "vitest";

import { formOf } from "./formOf";

test("a form is read line by line", () => {
  expect(formOf("name = tester\n word=a=b \n\nremember")).toEqual({ name: "tester", word: "a=b", remember: "" });
  expect(formOf("")).toEqual({});
});
