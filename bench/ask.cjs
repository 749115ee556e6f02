// Runs under a real Node program: which of the paths on standard input resolve by property look-up. true, false or null.
// node ask.cjs [FOLDER]     FOLDER: where packages are installed; without it built-in modules and globals are asked.
'use strict';
const { createRequire } = require('module');
const builtin = new Set(require('module').builtinModules);
const load = process.argv[2] ? createRequire(require('path').join(process.argv[2], 'x.js')) : require;
let text = '';
process.stdin.on('data', (chunk) => { text += chunk; });
process.stdin.on('end', () => {
  const answers = {};
  for (const path of JSON.parse(text)) answers[path] = reaches(path);
  process.stdout.write(JSON.stringify(answers), () => process.exit(0));
});

function reaches(path) {
  const parts = path.split('.');
  for (let length = parts.length; length > 0; length -= 1) {
    const specifier = parts.slice(0, length).join('.');
    let value;
    if (length === 1 && !process.argv[2] && !builtin.has(specifier)) {
      if (!(specifier in globalThis)) return /^[a-z]/.test(specifier) ? null : false;
      value = globalThis[specifier];
    } else {
      try {
        value = load(specifier);
      } catch (error) {
        if (error && error.code === 'MODULE_NOT_FOUND' && length > 1) continue;
        if (error && /NOT_FOUND|NOT_EXPORTED|ERR_UNKNOWN_BUILTIN/.test(String(error.code))) { if (length > 1) continue; return false; }
        return null;
      }
    }
    for (const name of parts.slice(length)) {
      if (value === null || value === undefined) return null;
      if (!(name in Object(value))) return false;
      try { value = value[name]; } catch { return true; }
    }
    return true;
  }
  return false;
}
