// Asks npm’s own client, as it is set up here, for what it knows of packages; nothing is installed. Run with npm’s folder as the
// argument and one name a line on the standard input. Answers with one JSON line a package, as they come: {"name", "releases":
// {VERSION: {"engines", "peers", "optional", "needs", "withdrawn", "at"}}}, or {"name", "error"}.
'use strict';
const [, , folder] = process.argv;
const AT_ONCE = 8;
const FINAL = /^\d+\.\d+\.\d+$/;

async function main() {
  const names = require('node:fs').readFileSync(0, 'utf8').split('\n').filter(Boolean);
  process.argv = [process.argv[0], `${folder}/bin/npm-cli.js`, 'view'];
  const Npm = require(`${folder}/lib/npm.js`);
  const pacote = require(`${folder}/node_modules/pacote`);
  const npm = new Npm();
  await npm.load();
  const plain = (value) => (value && typeof value === 'object' && !Array.isArray(value) ? value : {});
  const reduced = (packument) => {
    const releases = {};
    for (const [version, row] of Object.entries(packument.versions)) {
      if (!FINAL.test(version)) continue;
      releases[version] = {
        engines: plain(row.engines).node,
        peers: plain(row.peerDependencies),
        optional: Object.keys(plain(row.peerDependenciesMeta)).filter((name) => row.peerDependenciesMeta[name]?.optional),
        needs: plain(row.dependencies),
        withdrawn: row.deprecated,
        at: plain(packument.time)[version],
      };
    }
    return releases;
  };
  const worker = async () => {
    for (let name = names.shift(); name !== undefined; name = names.shift()) {
      let answer;
      try {
        answer = { name, releases: reduced(await pacote.packument(name, { ...npm.flatOptions, fullMetadata: true })) };
      } catch (error) {
        answer = { name, error: String(error.code || error.message).slice(0, 200) };
      }
      process.stdout.write(`${JSON.stringify(answer)}\n`);
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, worker));
}

main().catch((error) => {
  process.stderr.write(String(error.stack));
  process.exit(3);
});
