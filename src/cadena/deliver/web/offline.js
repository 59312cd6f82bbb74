// Once loaded, the app works without a network: what it is made of is kept, and looked for anew.

const STORE = 'app';

self.addEventListener('fetch', (event) => {
  const { request } = event;
  if (request.method !== 'GET' || new URL(request.url).origin !== location.origin) return;
  event.respondWith(fresh(request).catch(async () => (await caches.match(request, { ignoreSearch: true })) ?? Response.error()));
});

async function fresh(request) {
  const answer = await fetch(request);
  if (answer.ok) await (await caches.open(STORE)).put(request, answer.clone());
  return answer;
}
