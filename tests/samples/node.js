//! node@14->node@24
"use strict";
//: removed util.isString
const { isString, inspect } = require("util");
const util = require("node:util");
const crypto = require("crypto");
//: deprecated punycode
const punycode = require("punycode");
const path = require("path");

//: removed util.isDate
if (util.isDate(x)) path.join("a", inspect(x));
//: guarded util.isRegExp
if (util.isRegExp) {
  //: guarded util.isRegExp
  util.isRegExp(x);
}
//: guarded util.isError
const isError = util.isError || ((e) => e instanceof Error);
//: removed crypto.createCipher
const cipher = crypto.createCipher("aes", "secret");
//: removed util.log
(0, util.log)("x");
//: removed util.isNull
module.exports = { gone: util.isNull, there: util.inspect };

function shadowed(util) {
  util.isDate(x);
  const crypto = make();
  return crypto.createCipher;
}

{
  const util = other();
  util.isDate(x);
}

//: removed util.isPrimitive
const alias = util.isPrimitive;
//: removed util.isPrimitive
alias(3);

try {
  //: guarded tls.parseCertString
  require("tls").parseCertString("x");
} catch (e) {
  // older ones only
}

//: deprecated Buffer
new Buffer(3);
Buffer.from("x");
//: removed process.assert
process.assert(true);
//: removed timers.enroll
require("timers").enroll(item, 3);
//: deprecated url.parse
const parsed = require("url").parse("http://x");
typeof SlowBuffer === "function" && SlowBuffer(3);

const { Readable } = require("stream");
class Lines extends Readable {
  constructor() {
    super();
    this.push("x");
    this.own();
  }
  own() {}
}
