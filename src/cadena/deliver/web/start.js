// Begins the app: its records are brought, and it runs in this page.

import { app, files } from './app.js';
import { Page } from './kit/page/page.js';

/** @param {[string, string]} file */
const bring = async ([name, file]) => [name, await (await fetch(file)).json()];
const records = Object.fromEntries(await Promise.all(Object.entries(files).map(bring)));
const root = document.getElementById('app');
if (root) new Page(app, records, root).run();
if ('serviceWorker' in navigator && !location.search) {
  navigator.serviceWorker.register('offline.js');
  navigator.serviceWorker.ready.then(({ active }) => {
    const made = performance.getEntriesByType('resource').map((each) => each.name);
    const ours = made.filter((address) => address.startsWith(location.origin));
    active?.postMessage([location.href.split('#')[0], ...ours]);
  });
}
