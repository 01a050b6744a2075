// The service worker: a bench page opens without the server once it was visited. Pages and the
// front are asked of the server first; what is vendored or styled comes from the tablet.
const CACHE = "tally-1";
const PATIENCE = 4000;
const isPage = (url) => /^\/bench\/([0-9a-f-]{36}\/)?$/.test(url.pathname);
const isStatic = (url) => url.pathname.startsWith("/static/");

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

async function page(request) {
  const kept = await caches.open(CACHE);
  try {
    const answer = await fetch(request, { signal: AbortSignal.timeout(PATIENCE) });
    const address = request.url.split("?")[0];
    if (answer.ok) await kept.put(address, answer.clone());
    // Sent elsewhere: the test is finished, or nobody is let in. The page does not stay behind.
    else if (answer.type === "opaqueredirect") await kept.delete(address);
    if (answer.status < 500) return answer;
    throw new Error(answer.status);
  } catch (fault) {
    return (await kept.match(request.url.split("?")[0])) || Promise.reject(fault);
  }
}

async function file(request) {
  const kept = await caches.open(CACHE);
  const known = await kept.match(request);
  const fresh = fetch(request).then(async (answer) => {
    if (answer.ok) await kept.put(request, answer.clone());
    return answer;
  });
  if (!known) return fresh;
  fresh.catch(() => {});
  return known;
}

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (isStatic(url)) event.respondWith(file(event.request));
  else if (event.request.mode === "navigate" && isPage(url)) event.respondWith(page(event.request));
});
