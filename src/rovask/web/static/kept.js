// Ticks are kept on this device until Rovask has them: made without a signal they are sent once, in order, when there is
// one, also after the page was closed. Pages that are wanted there are kept by sw.js.
"use strict";

const BOX = "rovask", TICKS = "ticks";
const WAIT = 8000, AGAIN = 15000;
let sending = false, waits = null;

function box() {
  return new Promise((ok, bad) => {
    const asked = indexedDB.open(BOX, 1);
    asked.onupgradeneeded = () => asked.result.createObjectStore(TICKS, {keyPath: "n", autoIncrement: true});
    asked.onsuccess = () => ok(asked.result);
    asked.onerror = () => bad(asked.error);
  });
}

async function inBox(mode, work) {
  const base = await box();
  try {
    return await new Promise((ok, bad) => {
      const asked = work(base.transaction(TICKS, mode).objectStore(TICKS));
      asked.onsuccess = () => ok(asked.result);
      asked.onerror = () => bad(asked.error);
    });
  } finally {
    base.close();
  }
}

const kept = () => inBox("readonly", (ticks) => ticks.getAll());
const keepTick = (row) => inBox("readwrite", (ticks) => ticks.put(row));
const dropTick = (n) => inBox("readwrite", (ticks) => ticks.delete(n));

// What the page shows of ticks that are not sent yet.
async function show() {
  const rows = await kept();
  const place = document.getElementById("kept");
  if (place) {
    place.hidden = rows.length === 0;
    const many = rows.length === 1 ? "1 tick is" : `${rows.length} ticks are`;
    const stuck = rows.find((row) => row.fault);
    place.textContent = rows.length === 0 ? "" : stuck ? `${many} kept here and not sent: ${stuck.fault}` : `${many} kept on this device; sent when there is a signal.`;
  }
  for (const form of document.querySelectorAll("form[data-kept]")) {
    const mine = rows.filter((row) => row.of === nameOf(form)).at(-1);
    let told = form.nextElementSibling?.matches?.("[data-told-kept]") ? form.nextElementSibling : null;
    if (!mine) {
      told?.remove();
    } else if (!told) {
      told = document.createElement("p");
      told.dataset.toldKept = "";
      told.className = "text-sm tone-warn";
      told.textContent = `${mine.said}: kept here, not sent yet`;
      form.after(told);
    }
  }
}

const nameOf = (form) => `${form.getAttribute("action")} ${form.elements.item?.value ?? ""}`;

async function post(row, more = []) {
  const body = new URLSearchParams([...row.fields, ...more]);
  const answer = await fetch(row.url, {method: "POST", body, credentials: "same-origin", signal: AbortSignal.timeout(WAIT)});
  if (new URL(answer.url).pathname.startsWith("/sign-in")) return "sign-in";
  return answer.ok ? "sent" : answer.status >= 500 || answer.status === 429 ? "away" : answer.status;
}

// The form's token is of one sign-in; after another it is read off a page of now.
async function freshToken(row) {
  const text = await (await fetch(row.back, {credentials: "same-origin", cache: "no-store"})).text();
  const token = new DOMParser().parseFromString(text, "text/html").querySelector('input[name="csrf"]')?.value;
  if (!token) return false;
  row.fields = row.fields.map(([name, value]) => [name, name === "csrf" ? token : value]);
  await keepTick(row);
  return true;
}

async function sendOne(row, made) {
  let came = await post(row);
  if (came === 403 && (await freshToken(row))) came = await post(row);
  if (came === 409 && !made) came = await post(row, [["anyway", "1"], ["reason", "ticked without a signal"]]);
  return came;
}

// Sends what is kept, the oldest first; made: the form that was just pressed, which is asked about when something speaks against it.
async function send(made = null) {
  if (sending) { // what was pressed meanwhile is sent right after
    waits = made ?? waits ?? {};
    return;
  }
  sending = true;
  let any = false;
  try {
    for (const row of await kept()) {
      if (row.fault && !made) continue;
      const came = await sendOne(row, made?.n === row.n);
      if (came === "away") break;
      if (came === "sign-in") {
        await keepTick({...row, fault: "sign in again; then it is sent"});
        break;
      }
      if (came !== "sent" && made?.n === row.n) {
        await dropTick(row.n);
        made.form.submit(); // the page says what speaks against it
        return;
      }
      if (came !== "sent") {
        await keepTick({...row, fault: `Rovask refused it (${row.said})`});
        continue;
      }
      await dropTick(row.n);
      any = true;
    }
  } catch (error) {
    if (error.name !== "TypeError" && error.name !== "AbortError" && error.name !== "TimeoutError") throw error;
  } finally {
    sending = false;
    await show();
  }
  if (waits) {
    const next = waits;
    waits = null;
    await send(next.n ? next : null);
    return;
  }
  if (any && document.querySelector("form[data-kept]")) await renew(made?.next);
}

// The page as it is now, in place; where the form leads elsewhere, there.
async function renew(next) {
  const there = next ? new URL(next, location) : new URL(location);
  if (there.pathname !== location.pathname || !window.htmx) location.assign(there);
  else await window.htmx.ajax("GET", location.pathname + location.search, {target: "body", swap: "outerMorph"});
  await show();
}

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!form.matches("form[data-kept]") || typeof indexedDB === "undefined") return;
  event.preventDefault();
  event.stopImmediatePropagation();
  const fields = [...new FormData(form, event.submitter)].filter(([, value]) => typeof value === "string");
  const mark = [...crypto.getRandomValues(new Uint8Array(6))].map((one) => one.toString(16).padStart(2, "0")).join("");
  fields.push(["mark", mark], ["ticked_at", new Date().toISOString()]);
  const row = {
    url: form.getAttribute("action"),
    fields,
    of: nameOf(form),
    said: event.submitter?.textContent.trim() ?? "tick",
    back: location.pathname,
  };
  keepTick(row).then(async (n) => {
    await show();
    await send({n, form, next: form.elements.next?.value});
  });
}, true);

function look() {
  show();
  send();
}
addEventListener("online", look);
addEventListener("pageshow", look);
document.addEventListener("visibilitychange", () => { if (!document.hidden) look(); });
document.addEventListener("htmx:after:swap", show);
setInterval(() => kept().then((rows) => (rows.length ? send() : null)), AGAIN);

// The pages of the slings, and today's, are fetched while there is a signal.
async function ready() {
  if (!("serviceWorker" in navigator)) return;
  const root = document.querySelector("[data-root]")?.dataset.root;
  if (!root) return;
  await navigator.serviceWorker.register("/sw.js");
  const worker = (await navigator.serviceWorker.ready).active;
  const assets = [...document.querySelectorAll("link[rel=stylesheet], link[rel=icon], script[src]")].map((one) => one.href ?? one.src);
  const stages = ["before", "slings", "minutes", "hour", "day", "week"].map((stage) => `${root}/launch/${stage}`);
  const steps = ["", "/weeps", "/no-water", "/starter", "/gland", "/marks"].map((step) => `${root}/trouble${step}`);
  const here = /\/(launch|morning)(\/|$)/.test(location.pathname);
  const pages = here ? [`${root}/morning`, `${root}/launch`, ...stages, ...steps, "/no-signal"] : ["/no-signal"];
  worker.postMessage({keep: [...assets.map((one) => new URL(one).pathname + new URL(one).search), ...pages]});
}
addEventListener("load", () => ready().catch(() => null));

document.addEventListener("submit", (event) => {
  if (event.target.getAttribute("action") !== "/sign-out" || !navigator.serviceWorker?.controller) return;
  navigator.serviceWorker.controller.postMessage({forget: true}); // what was kept of the boat goes with whoever leaves
});
