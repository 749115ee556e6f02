"use strict";
exports.pad = (text, width) => String(text).padStart(width, "0");
exports.trim = (text) => String(text).trim();
