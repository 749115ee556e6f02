"use strict";
const http = require("http");
const url = require("url");
const { sailings } = require("./sailings");

function answer(request, response) {
  const query = url.parse(request.url, true).query;
  response.end(JSON.stringify(sailings(query.port || "north")));
}

if (require.main === module) http.createServer(answer).listen(8080);
module.exports = { answer };
