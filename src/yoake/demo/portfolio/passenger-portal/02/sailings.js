"use strict";
const BOARD = { north: ["07:10", "09:40"], south: ["08:00"], isle: ["12:30"] };
exports.sailings = (port) => BOARD[port] || [];
