// The service worker: a bench page opens without the server once it was visited. Pages and the
// front are asked of the server first; what is vendored or styled comes from the tablet.
const CACHE = "tally-2";
const MOST_PAGES = 12;
const PATIENCE = 4000;
const isPage = (url) => /^\/bench\/([0-9a-f-]{36}\/)?$/.test(url.pathname);
const isStatic = (url) => url.pathname.startsWith("/static/");

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(begin()));

async function begin() {
  const old = (await caches.keys()).filter((name) => name.startsWith("tally-") && name !== CACHE);
  await Promise.all(old.map((name) => caches.delete(name)));
  await self.clients.claim();
}

// Only the pages visited last stay, and of the files only those that one of them names: a kept
// page keeps what it was made with, and what no page names any more goes.
async function forget(kept) {
  const all = await kept.keys();
  const pages = all.filter((each) => isPage(new URL(each.url)));
  const old = pages.slice(0, Math.max(pages.length - MOST_PAGES, 0));
  const named = new Set();
  for (const each of pages.slice(old.length)) {
    const html = await (await kept.match(each)).text();
    for (const [path] of html.matchAll(/\/static\/[^"'\s]+/g)) named.add(path);
  }
  const files = all.filter((each) => isStatic(new URL(each.url)) && !named.has(new URL(each.url).pathname));
  await Promise.all([...old, ...files].map((each) => kept.delete(each)));
}

async function page(request) {
  const kept = await caches.open(CACHE);
  try {
    const answer = await fetch(request, { signal: AbortSignal.timeout(PATIENCE) });
    const address = request.url.split("?")[0];
    if (answer.ok) {
      await kept.delete(address); // so that the order of the cache is that of the visits
      await kept.put(address, answer.clone());
      forget(kept).catch(() => {});
    }
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
