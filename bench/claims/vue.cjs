const three = require('vue/package.json').version.startsWith('3.');
const Vue = three ? require('vue') : require('vue/dist/vue.common.dev.js');
const Router = (() => { try { return require('vue-router'); } catch { return null; } })();
if (!three) {
  Vue.config.productionTip = false;
  Vue.config.devtools = false;
  if (Router) Vue.use(Router);
}
const module_text = text_of_module(Router ? 'vue-router' : 'vue');
const roots = new Map();
const drawn = (options, router) => {
  const box = document.createElement('div');
  document.body.appendChild(box);
  if (three) {
    const app = Vue.createApp(options);
    if (router) app.use(router);
    app.mount(box);
    const root = box.firstElementChild || box;
    roots.set(root, () => app.unmount());
    return { root, html: box.innerHTML };
  }
  const made = new Vue(options).$mount();
  box.appendChild(made.$el);
  roots.set(made.$el, () => made.$destroy());
  return { root: made.$el, html: made.$el.outerHTML };
};
const page = (options, router) => drawn(options, router).root;
const text = (options, router) => drawn(options, router).html;
const end = root => roots.get(root)();
const tick = () => Vue.nextTick();
const event = (element, name, extra = {}) => {
  const kind = name.startsWith('key') ? dom.window.KeyboardEvent : dom.window.Event;
  element.dispatchEvent(new kind(name, { bubbles: name !== 'ping', cancelable: true, ...extra }));
};
