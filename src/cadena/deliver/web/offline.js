// Once loaded, the app works without a network: what it is made of is kept, and looked for anew.

const STORE = 'app';

self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));

// The page tells what it was made of before anybody listened here.
self.addEventListener('message', (event) => {
  event.waitUntil(Promise.allSettled(event.data.map((address) => fresh(new Request(address)))));
});

self.addEventListener('fetch', (event) => {
  const { request } = event;
  if (request.method !== 'GET' || new URL(request.url).origin !== location.origin) return;
  event.respondWith(
    fresh(request).catch(
      async () => (await caches.match(request, { ignoreSearch: true })) ?? Response.error(),
    ),
  );
});

async function fresh(request) {
  const answer = await fetch(request);
  if (answer.ok) await (await caches.open(STORE)).put(request, answer.clone());
  return answer;
}
