// Ticks are kept on this device until Rovask has them: made without a signal they are sent once, in order, when there is
// one, also after the page was closed. Pages that are wanted there are kept by sw.js.
"use strict";

const BOX = "rovask", TICKS = "ticks";
const WAIT = 20000, AGAIN = 15000, TWICE = 700; // ms; two taps within the last are one
let sending = false, more = false;
const pressed = new Set(); // ticks made just now
class Away extends Error {} // no answer came
let sentOf = new Set(); // names of what was sent and is not on the page yet

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

// Whose page this is: ticks belong to the account that made them, whoever signs in on this device later.
const account = () => document.body.dataset.account ?? "";
const nameOf = (form) => `${form.getAttribute("action")} ${form.elements.namedItem("item")?.value ?? ""}`;
const ownOf = (rows) => rows.filter((row) => (row.by ?? account()) === account());
const heldUp = (row) => row.held ?? (row.by === undefined ? "whose it is isn’t known." : ""); // kept by 0.7
// What a tick is about: of one thing a later tick waits for an earlier one that is held up.
const about = (row) => row.of.replace(/[/](begin|done|unit|reopen) $/, "");

// What the page shows of ticks that are not sent yet.
async function show() {
  const rows = await kept();
  const mine = ownOf(rows);
  const place = document.getElementById("kept");
  if (place) {
    const others = rows.length - mine.length;
    place.hidden = rows.length === 0 || !account();
    const waits = mine.filter((row) => !heldUp(row)).length;
    const words = [];
    if (waits) words.push(`${waits === 1 ? "1 tick is" : `${waits} ticks are`} kept on this device; sent when there is a signal.`);
    if (others) words.push(`${others === 1 ? "1 tick" : `${others} ticks`} of somebody else ${others === 1 ? "is" : "are"} kept here, and sent when they sign in.`);
    place.replaceChildren(words.join(" "), ...mine.filter(heldUp).map(held));
  }
  for (const form of document.querySelectorAll("form[data-kept]")) {
    const last = mine.filter((row) => row.of === nameOf(form)).at(-1);
    const sent = !last && sentOf.has(nameOf(form));
    let told = form.nextElementSibling?.matches?.("[data-told-kept]") ? form.nextElementSibling : null;
    if (!last && !sent) {
      told?.remove();
      continue;
    }
    if (!told) {
      told = document.createElement("p");
      told.dataset.toldKept = "";
      told.className = "text-sm tone-warn";
      form.after(told);
    }
    told.textContent = sent ? "Sent; the page is being made anew …" : `${last.said}: kept here, not sent yet`;
  }
}

// A tick that is held up: what speaks against it is for whoever made it to answer, or the tick is taken back.
function held(row) {
  const line = document.createElement("span");
  line.className = "block";
  line.append(`“${row.said}” of ${row.what || "a thing"}: ${heldUp(row)} `);
  for (const [words, act] of [["Look at it", () => ask(row)], ["Take it back", () => dropTick(row.n).then(show)]]) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "act-small mr-2";
    button.textContent = words;
    button.addEventListener("click", act);
    line.append(button);
  }
  return line;
}

// Sends a tick as a form of its own, so that its page says what speaks against it; it stays kept until it is done.
async function ask(row) {
  await freshToken(row).catch(() => false); // without a signal the page of it says so
  const form = document.createElement("form");
  form.method = "post";
  form.action = row.url;
  form.hidden = true;
  for (const [name, value] of row.fields) {
    const field = document.createElement("input");
    [field.type, field.name, field.value] = ["hidden", name, value];
    form.append(field);
  }
  document.body.append(form);
  form.submit();
}

// A request; the line being down is told apart from what this file itself may get wrong.
async function asked(address, how) {
  try {
    return await fetch(address, how);
  } catch (error) {
    throw error.name === "TypeError" ? new Away(error.message) : error;
  }
}

// What came of a tick, and the page that was answered with.
async function post(row) {
  const body = new URLSearchParams(row.fields);
  const answer = await asked(row.url, {method: "POST", body, credentials: "same-origin", signal: AbortSignal.timeout(WAIT)});
  const url = new URL(answer.url);
  if (url.pathname.startsWith("/sign-in")) return {came: "sign-in"};
  if (answer.ok) return {came: "sent", page: {address: url.pathname + url.search, text: await answer.text()}};
  return {came: answer.status >= 500 || answer.status === 429 ? "away" : answer.status};
}

// The form's token is of one sign-in; after another of the same account it is read off a page of now.
async function freshToken(row) {
  const text = await (await asked(row.back, {credentials: "same-origin", cache: "no-store"})).text();
  const page = new DOMParser().parseFromString(text, "text/html");
  const token = page.querySelector('input[name="csrf"]')?.value;
  if (!token || page.body.dataset.account !== (row.by ?? account())) return false;
  row.fields = row.fields.map(([name, value]) => [name, name === "csrf" ? token : value]);
  await keepTick(row);
  return true;
}

async function sendOne(row) {
  const answer = await post(row);
  if (answer.came !== 403) return answer;
  return (await freshToken(row)) ? await post(row) : {came: "sign-in"};
}

async function isDone(row) {
  const mark = row.fields.find(([name]) => name === "mark")[1];
  const answer = await asked(`/sent/${mark}`, {cache: "no-store", signal: AbortSignal.timeout(WAIT)});
  return answer.ok && (await answer.json()).done;
}

const WHY = {409: "something speaks against it.", 422: "it can’t be done as things stand now."};

// Sends what is kept of this account, the oldest first; n: a tick that was just pressed, which is asked about at once. What is
// pressed meanwhile is sent in the same go, so that the page is made anew of the last of them.
async function send(n = null) {
  if (n !== null) pressed.add(n);
  more = true;
  if (sending) return;
  sending = true;
  const sent = {row: null, page: null};
  try {
    while (more) {
      more = false;
      await sendKept(sent);
    }
  } catch (error) {
    if (!(error instanceof Away) && error.name !== "AbortError" && error.name !== "TimeoutError") throw error;
  } finally {
    sending = false;
    pressed.clear();
    await show();
  }
  if (!sent.row) return;
  if (document.querySelector("form[data-kept]")) await renew(sent.page, sent.row.back === location.pathname ? sent.row.next : null);
  else sentOf.clear();
}

async function sendKept(sent) {
  const stuck = new Set();
  for (const row of ownOf(await kept())) {
    if (row.held && (await isDone(row))) { // it was answered for meanwhile
      await dropTick(row.n);
      [sent.row, sent.page] = [row, null];
      continue;
    }
    if (heldUp(row) || stuck.has(about(row))) {
      stuck.add(about(row));
      continue;
    }
    const answer = await sendOne(row), came = answer.came;
    if (came === "away") return;
    if (came === "sign-in") { // it goes when whoever made it signs in again
      if (pressed.has(row.n)) location.assign(`/sign-in?next=${encodeURIComponent(location.pathname)}`);
      return;
    }
    if (came === "sent") {
      sentOf.add(row.of);
      await dropTick(row.n);
      [sent.row, sent.page] = [row, answer.page];
      continue;
    }
    stuck.add(about(row));
    await keepTick({...row, held: WHY[came] ?? "Rovask refused it."});
    if (pressed.has(row.n)) {
      if (came !== 409) await dropTick(row.n); // its page says why, with what was typed
      await ask(row);
      return;
    }
  }
}

const here = () => location.pathname + location.search;

// The page as it is now, in place; where the form leads elsewhere, there. What the last tick was answered with is that page,
// if it is the one that is shown; else it is asked for, and again until it comes.
async function renew(page, next) {
  const there = next ? new URL(next, location) : new URL(location);
  if (there.pathname !== location.pathname || !window.htmx) {
    location.assign(there);
    return;
  }
  const address = here();
  const text = page?.address === address ? page.text : await fresh(address);
  if (text !== null && here() === address) {
    sentOf.clear();
    const body = document.body;
    await window.htmx.swap({text, target: body, sourceElement: body, swap: "outerMorph", request: {action: address}});
  }
  await show();
}

async function fresh(address) {
  try {
    const answer = await fetch(address, {cache: "no-store", headers: {"Rovask-Fresh": "yes"}, signal: AbortSignal.timeout(AGAIN)});
    return answer.ok && !answer.redirected ? await answer.text() : null;
  } catch (error) {
    if (error.name !== "TypeError" && error.name !== "AbortError" && error.name !== "TimeoutError") throw error;
    return null;
  }
}

async function again() {
  if ((await kept()).length) await send();
  else if (sentOf.size && !sending) await renew(null);
}

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!form.matches("form[data-kept]") || typeof indexedDB === "undefined") return;
  event.preventDefault();
  event.stopImmediatePropagation();
  const fields = [...new FormData(form, event.submitter)].filter(([name, value]) => typeof value === "string" && name !== "mark");
  if (Date.now() - Number(form.dataset.pressed ?? 0) < TWICE && form.dataset.button === (event.submitter?.value ?? "")) return;
  [form.dataset.pressed, form.dataset.button] = [Date.now(), event.submitter?.value ?? ""];
  const mark = [...crypto.getRandomValues(new Uint8Array(6))].map((one) => one.toString(16).padStart(2, "0")).join("");
  const row = {
    url: form.getAttribute("action"),
    fields: [...fields, ["mark", mark], ["ticked_at", new Date().toISOString()], ["by", account()]],
    by: account(),
    of: nameOf(form),
    what: (event.submitter?.getAttribute("aria-label") ?? "").replace(/^[^:]*: /, ""),
    said: event.submitter?.textContent.trim() ?? "tick",
    back: location.pathname,
    next: form.elements.next?.value,
  };
  keepTick(row).then(async (n) => {
    await show();
    await send(n);
  });
}, true);

function look() {
  show();
  send();
}
addEventListener("online", look);
addEventListener("pageshow", look);
document.addEventListener("visibilitychange", () => { if (!document.hidden) look(); });
document.addEventListener("htmx:after:swap", look);
setInterval(again, AGAIN);

// What is shown without an answer is a copy, and says so; of a page that is put in place, once it stands there.
let copyOf = "", lastSwap = 0;
function sayCopy(date) {
  const place = document.getElementById("connection");
  if (!place) return;
  const at = new Date(date), time = Number.isNaN(at.valueOf()) ? "" : ` at ${at.toLocaleTimeString("en-GB", {hour: "2-digit", minute: "2-digit"})}`;
  place.textContent = `No answer came: this is the page as it was kept${time}. What was done since is not on it.`;
  place.hidden = false;
}
navigator.serviceWorker?.addEventListener("message", (event) => {
  if (!("keptAt" in event.data)) return;
  const {keptAt, swapped, path, answered} = event.data;
  if (swapped && !(lastSwap >= answered && location.pathname === path)) copyOf = keptAt ?? "";
  else sayCopy(keptAt);
});
document.addEventListener("htmx:after:swap", () => {
  lastSwap = Date.now();
  if (copyOf) sayCopy(copyOf);
  copyOf = "";
});

// The pages of the slings, and today's, are fetched while there is a signal.
async function ready() {
  if (!("serviceWorker" in navigator)) return;
  const root = document.querySelector("[data-root]")?.dataset.root;
  if (!root) return;
  await navigator.serviceWorker.register("/sw.js");
  const worker = (await navigator.serviceWorker.ready).active;
  if ((localStorage.getItem("account") ?? account()) !== account()) worker.postMessage({forget: true}); // pages of somebody else
  localStorage.setItem("account", account());
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
