"use strict";
const assert = require("assert");
assert.ok(require("./src/code").valid("HF2041"));
assert.strictEqual(require("./src/printer").ticket("HF2041").toString(), "ticket HF2041\n");
