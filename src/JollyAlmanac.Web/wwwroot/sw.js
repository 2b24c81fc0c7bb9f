// Keeps the last state of class pages that anybody may see, and what they are drawn with, for when the line is gone. Nothing of anybody
// who is signed in: such an answer says "no-store", and what is kept says that it may be.
const kept = "class-pages-1";
const drawn = /^\/(css|js|lib|favicon)/;

addEventListener("install", () => skipWaiting());
addEventListener("activate", event =>
  event.waitUntil((async () => {
    for (const name of await caches.keys()) if (name !== kept) await caches.delete(name);
    await clients.claim();
  })()));

addEventListener("fetch", event => {
  const { request } = event;
  const address = new URL(request.url);
  const isPage = request.mode === "navigate" && /^\/c\/[a-z0-9-]+$/.test(address.pathname) && !address.search;
  if (request.method !== "GET" || address.origin !== location.origin || !(isPage || drawn.test(address.pathname))) return;
  event.respondWith((async () => {
    const store = await caches.open(kept);
    try {
      const answer = await fetch(request);
      if (isPage && answer.headers.get("Almanac-Keeps") !== "yes") await store.delete(address.pathname);
      else if (answer.ok) await store.put(address.pathname, answer.clone());
      return answer;
    } catch (gone) {
      const last = await store.match(address.pathname);
      if (last) return last;
      throw gone;
    }
  })());
});
