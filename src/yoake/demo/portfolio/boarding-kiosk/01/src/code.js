"use strict";
exports.valid = (code) => /^[A-Z]{2}\d{4}$/.test(code);
