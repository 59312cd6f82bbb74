// Begins the app: its records are brought, and it runs in this page.

import { app, files } from './app.js';
import { Page } from './kit/page/page.js';

const bring = async (name) => [name, await (await fetch(files[name])).json()];
const records = Object.fromEntries(await Promise.all(Object.keys(files).map(bring)));
new Page(app, records, document.getElementById('app')).run();
if ('serviceWorker' in navigator && !location.search) navigator.serviceWorker.register('offline.js');
