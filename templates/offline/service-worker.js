// What this device keeps, so that a page opens where there is no line: the application's own files, and the pages of jobs
// that were opened here. Readings are no concern of it: they wait in the outbox (static/js/outbox.js).

const SHELL = "shell {{ release }}";
const PAGES = "pages";
const AWAY = "{% url 'away' %}";
const FILES = [{% for url in shell %}"{{ url|escapejs }}", {% endfor %}AWAY];
const MOST_PAGES = 60;
const PATIENCE_MS = 8000;
const KEPT = /^\/jobs\/[^/]+\/(([A-Z0-9]+\/)?(prepare|measure|look|do|turn|cut|prove)\/)?$|^\/order\/$|^\/$/;
const GONE = new Set([502, 503, 504]);

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((cache) => cache.addAll(FILES)).then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches.keys()
      .then((names) => Promise.all(names.filter((name) => name !== SHELL && name !== PAGES).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

self.addEventListener("message", (event) => {
  // Somebody else is at the device, or nobody: what was opened here is no more theirs to see.
  if (event.data === "forget pages") event.waitUntil(caches.delete(PAGES));
  // The page that was open when all this was put in place.
  if (event.data.keep && KEPT.test(new URL(event.data.keep).pathname)) event.waitUntil(fetchAndKeep(event.data.keep));
});

async function fetchAndKeep(address) {
  const answer = await fetch(address);
  if (answer.status === 200 && !answer.redirected) await keep(new URL(address), answer);
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin) return;
  if (url.pathname.startsWith("/static/")) event.respondWith(file(request));
  else if (request.mode === "navigate") event.respondWith(page(request, url));
});

// Named by what is in it: it never changes.
async function file(request) {
  const kept = await caches.match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) (await caches.open(SHELL)).put(request, answer.clone());
  return answer;
}

async function page(request, url) {
  const answering = fetch(request);
  try {
    const kept = await fromDevice(url);
    // A line that says nothing for long is none, where there is something else to show.
    const answer = await (kept ? Promise.race([answering, silence()]) : answering);
    if (GONE.has(answer.status)) return kept ?? answer;
    if (answer.status === 200 && !answer.redirected && KEPT.test(url.pathname)) await keep(url, answer.clone());
    return answer;
  } catch {
    answering.catch(() => {});
    return (await fromDevice(url)) ?? (await caches.match(AWAY)) ?? Response.error();
  }
}

const silence = () => new Promise((_, refuse) => setTimeout(refuse, PATIENCE_MS));

async function keep(url, answer) {
  const cache = await caches.open(PAGES);
  await cache.delete(url.href); // the newest stands last
  await cache.put(url.href, answer);
  const pages = await cache.keys();
  await Promise.all(pages.slice(0, Math.max(pages.length - MOST_PAGES, 0)).map((old) => cache.delete(old)));
}

async function fromDevice(url) {
  const kept = await (await caches.open(PAGES)).match(url.href);
  if (!kept) return null;
  const text = (await kept.text()).replace("<body", `<body data-kept="${kept.headers.get("Date") ?? ""}"`);
  return new Response(text, { headers: kept.headers });
}
