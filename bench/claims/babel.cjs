const babel = (() => { try { return require('@babel/core'); } catch { return require('babel-core'); } })();
const seven = babel.version.startsWith('7.') || babel.version.startsWith('8.');
const made = async (code, options) => {
  const given = { filename: require('path').join(process.cwd(), 'a.js'), configFile: false, babelrc: false, ...options };
  if (!seven) { delete given.configFile; }
  return (seven ? await babel.transformAsync(code, given) : babel.transform(code, given)).code;
};
