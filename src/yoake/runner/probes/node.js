// Run by a real Node program: lists what its built-in modules and globals offer, as one JSON object on standard output.
// Read by runner/node_programs.py. With arguments, modules of packages are listed instead of the built-in ones.
'use strict';

const SKIPPED = new Set(['length', 'name', 'prototype', 'arguments', 'caller', 'constructor', '__proto__']);
const ONLY_WITH_SCHEME = ['node:test', 'node:sea', 'node:sqlite', 'node:test/reporters'];
const DEPTH = 3;
const symbols = {};

function part(specifier) {
  return specifier.replace(/\./g, '\u2024');
}

/** Node wraps what is deprecated in a function that warns once; the original becomes the wrapper's prototype. */
function isWrapped(value) {
  if (typeof value !== 'function') return false;
  try {
    const under = Object.getPrototypeOf(value);
    if (typeof under !== 'function' || under === Function.prototype) return false;
    if (value.prototype !== under.prototype && value.prototype && under.prototype) return false;
    return /warned|emitWarning|DeprecationWarning/.test(Function.prototype.toString.call(value));
  } catch {
    return false;
  }
}

function kindOf(value) {
  if (typeof value !== 'function') return 'v';
  try {
    const text = Function.prototype.toString.call(value);
    const methods = value.prototype ? Object.getOwnPropertyNames(value.prototype).length : 0;
    return /^class\b/.test(text) || methods > 1 ? 'c' : 'f';
  } catch {
    return 'f';
  }
}

function read(object, name) {
  const found = descriptor(object, name);
  let value;
  let deprecated = false;
  if (found && found.get) deprecated = isWrapped(found.get);
  try {
    value = object[name];
  } catch {
    value = undefined;
  }
  return { value, deprecated: deprecated || isWrapped(value) };
}

function note(path, kind, deprecated) {
  symbols[path] = deprecated ? [kind, 1] : [kind];
}

/** Names of an object and of what it inherits from, the ends of every chain left out. */
function names_(object) {
  const found = new Set();
  const ends = [Object.prototype, Function.prototype, Array.prototype];
  for (let at = object, depth = 0; at && !ends.includes(at) && depth < 8; depth += 1) {
    for (const name of Object.getOwnPropertyNames(at)) found.add(name);
    at = Object.getPrototypeOf(at);
  }
  return found;
}

function descriptor(object, name) {
  for (let at = object; at; at = Object.getPrototypeOf(at)) {
    const found = Object.getOwnPropertyDescriptor(at, name);
    if (found) return found;
  }
  return undefined;
}

function isPlain(value) {
  if (typeof value === 'function') return true;
  const under = Object.getPrototypeOf(value);
  return under === null || under === Object.prototype || Object.getPrototypeOf(under) === null;
}

function walk(object, path, depth, above) {
  let names;
  try {
    names = typeof object === 'function' || depth < 2 ? names_(object) : Object.getOwnPropertyNames(object);
  } catch {
    return;
  }
  for (const name of names) {
    if (SKIPPED.has(name) || name.includes('.') || (typeof object === 'function' && name.startsWith('Symbol('))) continue;
    const { value, deprecated } = read(object, name);
    const at = `${path}.${name}`;
    if (value === undefined && !deprecated) {
      note(at, 'v', false);
      continue;
    }
    const kind = kindOf(value);
    note(at, kind, deprecated);
    if (above.includes(value)) continue;
    if (isWalked(value, object, depth)) walk(value, at, depth + 1, [...above, value]);
    if (kind === 'c' && (typeof object !== 'function' || depth === 1)) prototype(value, at);
  }
}

/** Whether what is inside a value is listed: no instances, no lists, no statics of statics. */
function isWalked(value, object, depth) {
  if (depth >= DEPTH || value === null || (typeof value !== 'object' && typeof value !== 'function')) return false;
  if (typeof value === 'function') return depth <= 2 && typeof object !== 'function';
  return !Array.isArray(value) && !ArrayBuffer.isView(value) && isPlain(value);
}

function prototype(value, path) {
  let names;
  try {
    names = names_(value.prototype);
  } catch {
    return;
  }
  note(`${path}()`, 'c', false);
  for (const name of names) {
    if (SKIPPED.has(name) || name.includes('.')) continue;
    const found = descriptor(value.prototype, name);
    if (!found) continue;
    const deprecated = isWrapped(found.value) || (found.get && isWrapped(found.get));
    note(`${path}().${name}`, typeof found.value === 'function' ? 'f' : 'v', deprecated);
  }
}

const homes = new Map();

/** A global that is a module, or a member of one, is an alias of it. */
function globals() {
  note('globalThis', 'm', false);
  for (const name of Object.getOwnPropertyNames(globalThis)) {
    const { value, deprecated } = read(globalThis, name);
    const at = `globalThis.${name}`;
    const home = value !== null && (typeof value === 'object' || typeof value === 'function') && homes.get(value);
    if (home) {
      symbols[at] = [kindOf(value), deprecated ? 1 : 0, home];
      if (kindOf(value) === 'c') symbols[`${at}()`] = ['c', 0, `${home}()`];
    } else {
      note(at, kindOf(value), deprecated);
      if (value && (typeof value === 'object' || typeof value === 'function') && value !== globalThis && isPlain(value)) {
        walk(value, at, 2, [globalThis, value]);
        if (kindOf(value) === 'c') prototype(value, at);
      }
    }
  }
}

function module_(specifier, offered, offeredAs) {
  note(offeredAs, 'm', false);
  if (offered !== null && (typeof offered === 'object' || typeof offered === 'function')) {
    if (!homes.has(offered)) homes.set(offered, offeredAs);
    if (/^(buffer|url|timers|events|process|perf_hooks)$/.test(specifier)) {
      for (const name of Object.getOwnPropertyNames(offered)) {
        const value = read(offered, name).value;
        if (typeof value === 'function' && !homes.has(value)) homes.set(value, `${offeredAs}.${name}`);
      }
    }
  }
  if (offered === null || (typeof offered !== 'object' && typeof offered !== 'function')) return;
  walk(offered, offeredAs, 1, [offered]);
  if (typeof offered === 'function' && kindOf(offered) === 'c') prototype(offered, offeredAs);
}

/** Code → messages of run-time deprecations, as the program's own sources word them. */
function messages() {
  const found = {};
  let sources = {};
  try {
    sources = process.binding('natives');
  } catch {
    return found;
  }
  const pattern = /(['"`])((?:(?!\1)[^\\\n]|\\.)*?(?:\1\s*\+\s*\1(?:(?!\1)[^\\\n]|\\.)*?)*)\1,\s*(?:'DeprecationWarning',\s*)?'(DEP\d{4})'/g;
  for (const name of Object.keys(sources)) {
    if (typeof sources[name] !== 'string') continue;
    for (const match of sources[name].matchAll(pattern)) {
      const text = match[2].replace(/['"`]\s*\+\s*['"`]/g, '').replace(/\\(.)/g, '$1').replace(/\s+/g, ' ');
      if (text !== 'DeprecationWarning') (found[match[3]] = found[match[3]] || []).push(text);
    }
  }
  return found;
}

const wanted = process.argv.slice(2);
if (wanted.length === 0) {
  const names = require('module').builtinModules.map((name) => name.replace(/^node:(?!test|sea|sqlite)/, ''));
  for (const name of new Set([...names, ...ONLY_WITH_SCHEME])) {
    let offered;
    try {
      offered = require(name);
    } catch {
      continue;
    }
    module_(name, offered, part(name));
  }
  globals();
  process.stdout.write(JSON.stringify({ release: process.version.slice(1), symbols, messages: messages() }));
} else {
  const faults = {};
  for (const specifier of wanted) {
    try {
      const offered = require(specifier);
      module_(specifier, offered, part(specifier));
      if (offered && offered.__esModule === undefined && !(Object.prototype.hasOwnProperty.call(Object(offered), 'default'))) {
        symbols[`${part(specifier)}.default`] = ['v', 0, part(specifier)];
      }
    } catch (error) {
      faults[specifier] = String((error && error.message) || error).split('\n')[0];
    }
  }
  process.stdout.write(JSON.stringify({ release: '', symbols, messages: {}, faults }), () => process.exit(0));
}
