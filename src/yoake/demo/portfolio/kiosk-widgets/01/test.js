"use strict";
const assert = require("assert");
assert.strictEqual(require("./index").pad(7, 3), "007");
