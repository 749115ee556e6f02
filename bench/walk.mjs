// An independent walk over JavaScript with acorn (no tree-sitter, nothing of yoake.core).
// Prints one JSON list of [file, line, symbol, guarded] for members of required or imported modules and of globals.
// node walk.mjs ACORN_FOLDER FOLDER
import { createRequire } from 'node:module';
import { readFileSync, readdirSync, statSync } from 'node:fs';
import { join, relative } from 'node:path';

const require = createRequire(join(process.argv[2], 'x.js'));
const acorn = require('acorn');
const root = process.argv[3];
const GLOBALS = new Set(['Buffer', 'process', 'SlowBuffer']);
const found = [];

function files(folder, out = []) {
  for (const name of readdirSync(folder).sort()) {
    if (['node_modules', '.git', 'bower_components'].includes(name)) continue;
    const path = join(folder, name);
    const stat = statSync(path);
    if (stat.isDirectory()) files(path, out);
    else if (/\.(js|cjs|mjs)$/.test(name) && !/\.min\.js$/.test(name) && stat.size < 1e6) out.push(path);
  }
  return out;
}

function parse(text) {
  for (const sourceType of ['module', 'script']) {
    try {
      return acorn.parse(text, { ecmaVersion: 'latest', sourceType, locations: true, allowHashBang: true, allowReturnOutsideFunction: true });
    } catch { /* the other kind of file, or not JavaScript */ }
  }
  return null;
}

const plain = (specifier) => specifier.replace(/^node:/, '');

function required(node) {
  if (node && node.type === 'CallExpression' && node.callee.type === 'Identifier' && node.callee.name === 'require') {
    const first = node.arguments[0];
    if (first && first.type === 'Literal' && typeof first.value === 'string') return plain(first.value);
  }
  return null;
}

function chain(node) {
  const names = [];
  while (node.type === 'MemberExpression' && !node.computed && node.property.type === 'Identifier') {
    names.unshift(node.property.name);
    node = node.object;
    if (node.type === 'ChainExpression') node = node.expression;
  }
  return [node, names];
}

function walk(file, ast, text) {
  const tests = [];
  const bound = new Map();
  const spoilt = new Set();
  const bind = (name, path) => {
    if (bound.has(name) && bound.get(name) !== path) spoilt.add(name);
    bound.set(name, path);
  };
  const declare = (pattern, path) => {
    if (!pattern) return;
    if (pattern.type === 'Identifier') path === null ? spoilt.add(pattern.name) : bind(pattern.name, path);
    else if (pattern.type === 'ObjectPattern') {
      for (const p of pattern.properties) {
        if (p.type === 'RestElement') declare(p.argument, null);
        else declare(p.value.type === 'AssignmentPattern' ? p.value.left : p.value, path === null || p.computed ? null : `${path}.${p.key.name}`);
      }
    } else if (pattern.type === 'ArrayPattern') pattern.elements.forEach((e) => declare(e, null));
    else if (pattern.type === 'AssignmentPattern') declare(pattern.left, null);
    else if (pattern.type === 'RestElement') declare(pattern.argument, null);
  };
  // first pass: what every name is bound to
  each(ast, (node) => {
    if (node.type === 'VariableDeclarator') {
      const init = node.init && node.init.type === 'ChainExpression' ? node.init.expression : node.init;
      const [base, names] = init ? chain(init) : [null, []];
      const specifier = required(base);
      declare(node.id, specifier === null ? null : [specifier, ...names].join('.'));
    } else if (node.type === 'ImportDeclaration') {
      const from = plain(node.source.value);
      for (const s of node.specifiers) {
        bind(s.local.name, s.type === 'ImportSpecifier' && s.imported.name !== 'default' ? `${from}.${s.imported.name}` : from);
      }
    } else if (node.params) {
      node.params.forEach((p) => declare(p, null));
      if (node.id) spoilt.add(node.id.name);
    } else if (node.type === 'ClassDeclaration' && node.id) spoilt.add(node.id.name);
    else if (node.type === 'CatchClause') declare(node.param, null);
    else if (node.type === 'AssignmentExpression' && node.left.type === 'Identifier') spoilt.add(node.left.name);
  });
  const visit = (node, guarded) => {
    if (!node || typeof node.type !== 'string') return;
    if (node.type === 'TryStatement') {
      visit(node.block, guarded || node.handler !== null);
      if (node.handler) visit(node.handler.body, true);
      if (node.finalizer) visit(node.finalizer, guarded);
      return;
    }
    if (['IfStatement', 'ConditionalExpression', 'LogicalExpression'].includes(node.type)) {
      const test = node.test || node.left;
      const version = /process\.version|versions\.node/.test(text.slice(test.start, test.end));
      tests.push(text.slice(test.start, test.end));
      for (const child of children(node)) visit(child, guarded || version);
      tests.pop();
      return;
    }
    if (node.type === 'UnaryExpression' && ['typeof', 'delete'].includes(node.operator)) return;
    if (node.type === 'AssignmentExpression' && node.left.type === 'MemberExpression') {
      visit(node.right, guarded);
      return;
    }
    if (node.type === 'VariableDeclarator' && node.id.type === 'ObjectPattern' && node.init) {
      const [base, names] = chain(node.init);
      const specifier = required(base);
      const path = specifier !== null ? [specifier, ...names].join('.') : base.type === 'Identifier' && bound.has(base.name) && !spoilt.has(base.name) ? [bound.get(base.name), ...names].join('.') : null;
      if (path !== null) {
        for (const p of node.id.properties) if (p.type === 'Property' && !p.computed && p.value.type !== 'AssignmentPattern') found.push([file, p.loc.start.line, `${path}.${p.key.name}`, guarded]);
      }
    }
    if (node.type === 'ImportDeclaration') {
      for (const s of node.specifiers) if (s.type === 'ImportSpecifier') found.push([file, s.loc.start.line, `${plain(node.source.value)}.${s.imported.name}`, guarded]);
      return;
    }
    if (node.type === 'MemberExpression') {
      const [base, names] = chain(node);
      if (base === node) {
        visit(node.object, guarded);
        visit(node.property, guarded);
        return;
      }
      const specifier = required(base);
      const line = base.loc.start.line === node.loc.end.line ? base.loc.start.line : -1;
      // a condition that asks whether the member is there, without calling it
      const shown = text.slice(node.start, node.end).replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
      if (tests.some((test) => new RegExp(`${shown}(?![\\w(])`).test(test))) guarded = true;
      if (names.length && specifier !== null) found.push([file, line, [specifier, ...names].join('.'), guarded]);
      else if (names.length && base.type === 'Identifier' && !spoilt.has(base.name)) {
        if (bound.has(base.name)) found.push([file, line, [bound.get(base.name), ...names].join('.'), guarded]);
        else if (GLOBALS.has(base.name)) found.push([file, line, [base.name, ...names].join('.'), guarded]);
      }
      if (base.type !== 'Identifier') visit(base, guarded);
      return;
    }
    if (node.type === 'Identifier' && bound.has(node.name) && !spoilt.has(node.name) && bound.get(node.name).includes('.')) {
      found.push([file, node.loc.start.line, bound.get(node.name), guarded]);
    }
    for (const child of children(node)) visit(child, guarded);
  };
  visit(ast, false);
}

function* children(node) {
  for (const key of Object.keys(node)) {
    if (key === 'loc' || key === 'type') continue;
    if (key === 'key' && !node.computed && node.type !== 'PropertyDefinition') continue;
    if ((node.type === 'LabeledStatement' || node.type === 'BreakStatement' || node.type === 'ContinueStatement') && key === 'label') continue;
    const value = node[key];
    if (Array.isArray(value)) for (const v of value) { if (v && v.type) yield v; } else if (value && value.type) yield value;
  }
}

function each(node, act) {
  act(node);
  for (const child of children(node)) each(child, act);
}

for (const path of files(root)) {
  const source = readFileSync(path, 'utf8');
  const ast = parse(source);
  const before = found.length;
  try {
    if (ast) walk(relative(root, path), ast, source);
  } catch (error) {
    found.length = before; // nested too deep for this walk: the file is left out of the truth
    console.error(path, String(error));
  }
}
process.stdout.write(JSON.stringify(found.filter(([, line]) => line > 0)));
