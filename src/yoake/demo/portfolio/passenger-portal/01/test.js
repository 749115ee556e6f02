"use strict";
const assert = require("assert");
const { sailings } = require("./sailings");
assert.strictEqual(sailings("north").length, 2);
assert.deepStrictEqual(sailings("nowhere"), []);
