// Begins the app: its records are brought, and it runs in this page.

import { app, files } from './app.js';
import * as own from './extend.js';
import { Page } from './kit/page/page.js';

/** The records of a source, of all its files. @param {[string, string[]]} pages */
const bring = async ([name, pages]) => {
  if (own.sources[name]) return [name, await own.sources[name]()];
  const found = await Promise.all(pages.map(async (page) => (await fetch(page)).json()));
  return [name, found.length > 1 ? found.flat() : found[0]];
};
const frame = document.hidden ? null : new Promise(requestAnimationFrame);
const records = Object.fromEntries(await Promise.all(Object.entries(files).map(bring)));
// What the page says while it loads is to be seen before all else is made.
await frame;
const root = document.getElementById('app');
if (root) new Page(app, records, root, own).run();

// Kept for when there is no network, once there is nothing else to do.
if ('serviceWorker' in navigator && !location.search) {
  const whenIdle =
    window.requestIdleCallback ?? ((/** @type {any} */ does) => setTimeout(does, 1000));
  whenIdle(async () => {
    navigator.serviceWorker.register('offline.js');
    const { active } = await navigator.serviceWorker.ready;
    const made = performance.getEntriesByType('resource').map((each) => each.name);
    const ours = made.filter((address) => address.startsWith(location.origin));
    active?.postMessage([document.baseURI.split('#')[0], ...ours]);
  });
}
