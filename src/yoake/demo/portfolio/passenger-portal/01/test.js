"use strict";
const assert = require("assert");
const { sailings } = require("./sailings");
const { seal, unseal } = require("./session");
assert.strictEqual(sailings("north").length, 2);
assert.deepStrictEqual(sailings("nowhere"), []);
assert.strictEqual(unseal(seal("north")), "north");
