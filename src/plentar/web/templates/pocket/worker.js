"use strict";
// The service worker: the program's own files are kept, pages come from the server, and where there is no signal
// the bench of what was taken along stands in their place. Nothing of a shop is kept here.
const KEPT = {{ kept|safe }};
const NAME = "plentar-{{ mark }}";
const PATIENCE_MS = 8000;

self.addEventListener("install", (event) => {
  const fill = async () => (await caches.open(NAME)).addAll(KEPT);
  event.waitUntil(fill().then(() => self.skipWaiting()));
});
self.addEventListener("activate", (event) => {
  const clear = async () => {
    for (const name of await caches.keys()) if (name !== NAME) await caches.delete(name);
  };
  event.waitUntil(clear().then(() => self.clients.claim()));
});
self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== "GET" || origin !== location.origin) return;
  if (pathname.startsWith("/static/"))
    event.respondWith(caches.match(request).then((known) => known ?? fetch(request)));
  else if (request.mode === "navigate") event.respondWith(page(request));
});
async function page(request) {
  try {
    return await fetch(request, { signal: AbortSignal.timeout(PATIENCE_MS) });
  } catch {
    return (await caches.match("{{ url_for('pocket.show') }}")) ?? Response.error();
  }
}
