// Keeps readable without a signal: what is needed in the slings and on today's Morning, the forms that are kept there, and a job's
// sheet, a day and the Slip as they were last seen. Nothing else is kept; all of it goes when its reader is signed out.
"use strict";

const PAGES = "rovask-pages";
const ASSETS = "rovask-assets";
const KEPT = /^\/r\/\d+\/(launch(\/[a-z]+)?|morning|trouble(\/[a-z-]+)?|found|slip|look|stores\/receive|day\/[0-9-]+|jobs\/[^/]+)$/;
const SEEN = /\/(slip|look|day\/[0-9-]+|jobs\/[^/]+)$/; // those of which only the last are kept
const MOST_SEEN = 30;
const NO_SIGNAL = "/no-signal";
const PATIENCE = 5000;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

// A page is kept only when it is what was asked for: not a sign-in page, not a fault.
async function keep(name, request, answer) {
  if (answer.ok && !answer.redirected) {
    const box = await caches.open(name);
    await box.put(request, answer.clone());
    if (name === PAGES) await thin(box);
  } else if (answer.redirected && new URL(answer.url).pathname === "/sign-in") {
    await forget(); // the session was refused: it ended, here or elsewhere
  }
  return answer;
}

async function thin(box) {
  const seen = (await box.keys()).filter((one) => SEEN.test(new URL(one.url).pathname));
  await Promise.all(seen.slice(0, Math.max(seen.length - MOST_SEEN, 0)).map((one) => box.delete(one)));
}

async function forget() {
  wanted = [];
  const box = await caches.open(PAGES), kept = await box.keys();
  await Promise.all(kept.filter((one) => new URL(one.url).pathname !== NO_SIGNAL).map((one) => box.delete(one)));
}

function fetched(request) {
  return Promise.race([fetch(request), new Promise((_, late) => setTimeout(late, PATIENCE, new Error("late")))]);
}

// A page as it is now; without an answer as it was kept, and the page says of when that is. Right after a tick it is
// waited for as long as it takes: a copy from before the tick would look as if it were lost.
async function page(event, path) {
  const request = event.request, plain = !new URL(request.url).search;
  try {
    const answer = await (request.headers.get("Rovask-Fresh") ? fetch(request) : fetched(request));
    return plain ? await keep(PAGES, path, answer) : answer;
  } catch (error) {
    const found = await caches.match(path, {cacheName: PAGES});
    if (found) event.waitUntil(tell(event, path, found.headers.get("Date")));
    return found ?? (await caches.match(NO_SIGNAL, {cacheName: PAGES})) ?? Response.error();
  }
}

// By a message: a kept page is shown as it stands. It may come before the page is put in place, or after.
async function tell(event, path, date) {
  const answered = Date.now();
  const client = await self.clients.get(event.resultingClientId || event.clientId);
  client?.postMessage({keptAt: date, swapped: event.request.mode !== "navigate", path, answered});
}

async function other(request) {
  try {
    return await fetch(request);
  } catch (error) {
    return (await caches.match(NO_SIGNAL, {cacheName: PAGES})) ?? Response.error();
  }
}

async function asset(request) {
  return (await caches.match(request, {cacheName: ASSETS})) ?? keep(ASSETS, request, await fetch(request));
}

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (url.pathname.startsWith("/static/")) {
    event.respondWith(asset(event.request));
  } else if (url.pathname === "/sign-in" && event.request.mode === "navigate") {
    event.respondWith(other(event.request)); // whoever is led here is signed in no more
    event.waitUntil(forget());
  } else if (KEPT.test(url.pathname)) {
    event.respondWith(page(event, url.pathname));
  } else if (event.request.mode === "navigate") {
    event.respondWith(other(event.request));
  }
});

// What is wanted without a signal is fetched a page at a time: what somebody waits for must not stand behind fifteen others.
let wanted = [];
let fetching = null;

async function fetchWanted() {
  for (let address = wanted.shift(); address; address = wanted.shift()) {
    const name = address.startsWith("/static/") ? ASSETS : PAGES;
    await fetch(address, {credentials: "same-origin"}).then((answer) => keep(name, address, answer)).catch(() => null);
  }
  fetching = null;
}

self.addEventListener("message", (event) => {
  if (event.data.forget) {
    event.waitUntil(Promise.all([forget(), caches.delete(ASSETS)]));
  }
  if (!event.data.keep) return;
  wanted = event.data.keep;
  fetching ??= fetchWanted();
  event.waitUntil(fetching);
});
