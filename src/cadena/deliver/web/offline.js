// Once loaded, the app works without a network: what it is made of is kept for when there is none.

const STORE = 'app';
const LOADS_WITHIN = 10_000;
const HOUR = 3_600_000;

// When the page last came from the network: what it asks for then comes from there as well,
// without the detour over here.
let reachedAt = 0;

self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));

// The page tells what it was made of, itself first, once it has nothing else to do.
self.addEventListener('message', (event) => event.waitUntil(keep(event.data)));

self.addEventListener('fetch', (event) => {
  const { request } = event;
  if (request.method !== 'GET' || new URL(request.url).origin !== location.origin) return;
  if (request.mode !== 'navigate' && Date.now() - reachedAt < LOADS_WITHIN) return;
  event.respondWith(answer(request));
});

async function answer(request) {
  try {
    const answered = await fetch(request);
    if (request.mode === 'navigate') reachedAt = Date.now();
    return answered;
  } catch {
    const isPage = request.mode === 'navigate';
    return (
      (await caches.match(request, { ignoreSearch: true })) ??
      (isPage ? await caches.match(self.registration.scope) : undefined) ??
      Response.error()
    );
  }
}

async function keep(addresses) {
  const store = await caches.open(STORE);
  const page = await store.match(addresses[0]);
  const isFresh = page && Date.now() - Date.parse(page.headers.get('date')) < HOUR;
  const known = new Set(isFresh ? (await store.keys()).map(({ url }) => url) : []);
  const wanted = addresses.filter((address) => !known.has(address));
  await Promise.allSettled(
    wanted.map(async (address) => {
      const answered = await fetch(address, { cache: 'no-cache' });
      if (answered.ok) await store.put(address, answered);
    }),
  );
}
