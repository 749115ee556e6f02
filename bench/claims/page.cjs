// A page without a browser, and what programs print and warn of.
const { JSDOM } = require('jsdom');
const dom = new JSDOM('<!doctype html><body></body>', { url: 'http://localhost/', pretendToBeVisual: true });
for (const name of Object.getOwnPropertyNames(dom.window)) {
  if (!(name in globalThis) && !name.startsWith('_')) Object.defineProperty(globalThis, name, { get: () => dom.window[name], configurable: true });
}
globalThis.window = dom.window;
globalThis.document = dom.window.document;
for (const name of ['Event', 'CustomEvent', 'MouseEvent', 'KeyboardEvent']) globalThis[name] = dom.window[name];
const said = [];
console.error = console.warn = (...told) => said.push(told.map(String).join(' '));
const print = (...told) => process.stdout.write(told.map(String).join(' ') + '\n');
const text_of_module = name => {
  const home = require('path').join(process.cwd(), 'node_modules', name);
  const { module } = JSON.parse(require('fs').readFileSync(home + '/package.json', 'utf8'));
  return require('fs').readFileSync(require('path').join(home, module), 'utf8');
};
const click = element => act(() => element.dispatchEvent(new dom.window.MouseEvent('click', { bubbles: true, cancelable: true })));
let act = run => run();
