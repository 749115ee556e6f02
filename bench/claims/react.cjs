globalThis.IS_REACT_ACT_ENVIRONMENT = true;
const React = require('react');
const h = React.createElement;
const jsx = (type, props) => require('react/jsx-runtime').jsx(type, props);
act = React.act || (run => require('react-dom/test-utils').act(() => { run(); }));
const client = (() => { try { return require('react-dom/client'); } catch { return null; } })();
const Router = (() => { try { return require('react-router-dom'); } catch { return null; } })();
const mount = element => {
  const box = document.createElement('div');
  document.body.appendChild(box);
  act(() => { client ? client.createRoot(box).render(element) : require('react-dom').render(element, box); });
  return box;
};
const page = element => mount(element).innerHTML;
const at = (path, element) => h(Router.MemoryRouter, { initialEntries: [path] }, element);
