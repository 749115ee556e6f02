//! node@14->node@24
//: deprecated util.isArray
//: removed util.isString
import { isArray, isString as text } from "util";
import * as util from "util";
import crypto from "crypto";
import type { Hash } from "crypto";
import fs = require("fs");

//: removed util.isString
export const a = (x: unknown): boolean => text(x);
//: removed crypto.createDecipher
export const b = crypto.createDecipher("a", "b");
//: removed util.isObject
export { isObject } from "util";
export const c = async () => {
  //: removed util.isSymbol
  const { isSymbol } = await import("util");
  //: removed util.isSymbol
  return isSymbol(fs.readFileSync("x")) && util?.inspect(0);
};
export function d(this: Hash, crypto: { createCipher: number }) {
  return crypto.createCipher;
}
