"use strict";
exports.pad = (text, width) => String(text).padStart(width, "0");
