// Asks Express for its router stacks: node ask_routes.cjs FOLDER CODE; CODE starts the application, with req(name) to load a package.
const path = require("node:path");
const Module = require("node:module");

const from = Module.createRequire(path.join(path.resolve(process.argv[2]), "x.js"));
const applications = [];
const patched = new Set();

/** Remembers every application, and under which path each router was put. */
function patch(express) {
  if (patched.has(express)) return;
  patched.add(express);
  const { init } = express.application;
  express.application.init = function () {
    applications.push(this);
    return init.apply(this, arguments);
  };
  express.application.listen = function (...given) {
    const server = { on: () => server, once: () => server, close() {}, address: () => ({}), setTimeout() {} };
    const done = given.at(-1);
    if (typeof done === "function") setTimeout(() => done.call(server), 10);
    return server;
  };
  const { use } = express.Router;
  express.Router.use = function (first) {
    const before = this.stack.length;
    const result = use.apply(this, arguments);
    const named = typeof first !== "function" && !(Array.isArray(first) && typeof first[0] === "function");
    for (const layer of this.stack.slice(before)) layer.below = named ? [].concat(first) : ["/"];
    return result;
  };
}

const load = Module._load;
Module._load = function (name) {
  const found = load.apply(this, arguments);
  if (name === "express" && found?.application) patch(found);
  return found;
};

const template = (given) =>
  typeof given === "string" ? given.replace(/:(\w+)(\((?:[^()]|\([^()]*\))*\))?[?*+]?/g, "{$1}").replace(/\*/g, "{any}") : String(given);
const stackOf = (application) => {
  if (application._router) return application._router.stack;
  try {
    return application.router?.stack;
  } catch {
    return undefined; // older ones say that it is deprecated
  }
};
const found = new Set();

function walk(stack, prefix, depth = 0) {
  for (const layer of depth < 9 ? (stack ?? []) : []) {
    if (layer.route) {
      for (const each of [].concat(layer.route.path))
        for (const method of Object.keys(layer.route.methods))
          found.add(`${method === "_all" ? "ANY" : method.toUpperCase()} ${`${prefix}/${template(each)}`.replace(/\/+/g, "/")}`);
    } else if (layer.handle?.stack) {
      for (const each of layer.below ?? ["/"]) walk(layer.handle.stack, `${prefix}/${template(each)}`, depth + 1);
    }
  }
}

process.on("uncaughtException", (error) => console.error("uncaught:", error.message));
process.on("unhandledRejection", (error) => console.error("unhandled:", error?.message));
(async () => {
  await new Function("req", `return (async () => { ${process.argv[3]} })();`)(from);
  setTimeout(() => {
    for (const application of applications.filter((each) => !each.parent)) {
      walk(stackOf(application), "");
      for (const below of applications.filter((each) => each.parent === application)) walk(stackOf(below), `/${template([].concat(below.mountpath)[0])}`, 1);
    }
    console.log([...found].join("\n"));
    process.exit(0);
  }, 2500);
})();
