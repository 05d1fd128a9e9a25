// The pages of a call as they were last seen, for where the signal doesn't reach; scripts and styles for
// good. Nothing is sent from here: entries wait in the page's own outbox.
"use strict";
const SHELL = "frostline-shell-{{ version }}";
const PAGES = "frostline-pages";
const FILES = [{% for file in files %}"{{ file }}", {% endfor %}];
const MOST_PAGES = 60;
const OLDEST = 14 * 86400e3; // what nobody has looked at for so long is not kept on a device

self.addEventListener("install", (event) => {
  event.waitUntil(
    caches
      .open(SHELL)
      .then((shell) => shell.addAll(FILES))
      .then(() => self.skipWaiting()),
  );
});

self.addEventListener("activate", (event) => {
  event.waitUntil(
    caches
      .keys()
      .then((names) =>
        Promise.all(
          names
            .filter((name) => name.startsWith("frostline-shell-") && name !== SHELL)
            .map((name) => caches.delete(name)),
        ),
      )
      .then(() => self.clients.claim()),
  );
});

const clear = async () => {
  const pages = await caches.open(PAGES);
  for (const request of await pages.keys()) {
    const made = (await pages.match(request)).headers.get("date");
    if (Date.now() - new Date(made) > OLDEST) await pages.delete(request);
  }
};

const keep = async (address, response) => {
  const pages = await caches.open(PAGES);
  await pages.put(address, response);
  const kept = await pages.keys();
  for (const old of kept.slice(0, Math.max(0, kept.length - MOST_PAGES))) await pages.delete(old);
};

const seen = (url) => url.pathname === "/" || url.pathname.startsWith("/calls/");

const page = async (request) => {
  const url = new URL(request.url);
  try {
    const response = await fetch(request);
    if (response.ok && !response.redirected && seen(url)) await keep(request.url, response.clone());
    return response;
  } catch {
    await clear();
    const kept = await caches.open(PAGES).then((pages) => pages.match(request.url));
    return kept ?? (await caches.match("{{ offline }}")) ?? Response.error();
  }
};

// Its name tells its content: what was fetched once (fonts too) is kept.
const file = async (request) => {
  const kept = await caches.match(request);
  if (kept) return kept;
  const response = await fetch(request);
  if (response.ok) await caches.open(SHELL).then((shell) => shell.put(request, response.clone()));
  return response;
};

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== self.location.origin) return;
  if (event.request.mode === "navigate") event.respondWith(page(event.request));
  else if (url.pathname.startsWith("/static/")) event.respondWith(file(event.request));
});

// A page that came as a part of another is kept whole too.
self.addEventListener("message", (event) => {
  if (event.data?.forget) event.waitUntil(caches.delete(PAGES));
  const url = event.data?.keep && new URL(event.data.keep, self.location.origin);
  if (url && url.origin === self.location.origin && seen(url))
    event.waitUntil(
      fetch(url, { credentials: "same-origin" })
        .then((response) => (response.ok && !response.redirected ? keep(url.href, response) : null))
        .catch(() => null),
    );
});
