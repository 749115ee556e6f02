"use strict";
const fs = require("fs");

exports.ticket = (code) => new Buffer("ticket " + code + "\n");

exports.spool = (path, code, done) => {
  fs.exists(path, (there) => {
    if (!there) return done(new Error("no printer at " + path));
    fs.appendFile(path, exports.ticket(code), done);
  });
};
