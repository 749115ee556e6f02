"use strict";
const crypto = require("crypto");
const SECRET = process.env.PORTAL_SECRET || "harbour lights";

exports.seal = (text) => {
  const cipher = crypto.createCipher("aes-128-cbc", SECRET);
  return cipher.update(text, "utf8", "hex") + cipher.final("hex");
};

exports.unseal = (sealed) => {
  const decipher = crypto.createDecipher("aes-128-cbc", SECRET);
  return decipher.update(sealed, "hex", "utf8") + decipher.final("utf8");
};
