"use strict";
const http = require("http");
const url = require("url");
const util = require("util");
const { sailings } = require("./sailings");
const { seal, unseal } = require("./session");

function answer(request, response) {
  const query = url.parse(request.url, true).query;
  const port = util.isString(query.port) ? query.port : "north";
  util.log("asked for " + port);
  response.setHeader("Set-Cookie", "seen=" + seal(port));
  response.end(JSON.stringify(sailings(port)));
}

if (require.main === module) http.createServer(answer).listen(8080);
module.exports = { answer, unseal };
