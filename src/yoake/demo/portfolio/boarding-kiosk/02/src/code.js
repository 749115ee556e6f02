"use strict";
exports.valid = (code) => typeof code === "string" && /^[A-Z]{2}\d{4}$/.test(code);
