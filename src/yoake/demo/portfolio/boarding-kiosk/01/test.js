"use strict";
const assert = require("assert");
assert.ok(require("./src/code").valid("HF2041"));
