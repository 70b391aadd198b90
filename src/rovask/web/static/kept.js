// Ticks, and forms that are filled in where there is no signal (data-kept-away), are kept on this device until Rovask has them, photos
// too: they are sent once, in order, when there is one, also after the page was closed. Pages that are wanted there are kept by sw.js.
"use strict";

const BOX = "rovask", TICKS = "ticks";
const PROBE = 4000, UPLOAD = 180000; // ms
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
    const waits = mine.filter((row) => !heldUp(row));
    const words = [];
    if (waits.length) words.push(`${many(waits)} kept on this device; sent when there is a signal.`);
    if (others) words.push(`${many(rows.filter((row) => !mine.includes(row)), " of somebody else")} kept here, and sent when they sign in.`);
    place.replaceChildren(words.join(" "), ...waits.filter((row) => row.files).map(waiting), ...mine.filter(heldUp).map(held));
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

function many(rows, whose = "") {
  const word = rows.some((row) => row.files) ? "thing" : "tick";
  return rows.length === 1 ? `1 ${word}${whose} is` : `${rows.length} ${word}s${whose} are`;
}

const photos = (row) => (row.files.length ? ` with ${row.files.length === 1 ? "1 photo" : `${row.files.length} photos`}` : "");

// A form that waits: what it is, and a way to take it back.
function waiting(row) {
  const line = document.createElement("span");
  line.className = "block";
  line.append(`${row.what}${photos(row)} `);
  const button = document.createElement("button");
  button.type = "button";
  button.className = "act-small";
  button.textContent = "Take it back";
  button.addEventListener("click", () => dropTick(row.n).then(show));
  line.append(button);
  return line;
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
  if (row.files) form.enctype = "multipart/form-data";
  for (const [name, file] of row.files ?? []) {
    const field = document.createElement("input"), given = new DataTransfer();
    given.items.add(file);
    [field.type, field.name, field.files] = ["file", name, given.files];
    form.append(field);
  }
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
  const body = row.files ? new FormData() : new URLSearchParams(row.fields);
  if (row.files) for (const [name, value] of [...row.fields, ...row.files]) body.append(name, value);
  const wait = row.files?.length ? UPLOAD : WAIT;
  const answer = await asked(row.url, {method: "POST", body, credentials: "same-origin", signal: AbortSignal.timeout(wait)});
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

const WHY = {403: "you may not do this here any more.", 404: "its refit, or what it is about, is gone.", 413: "its photos are too large.", 409: "something speaks against it.", 422: "it can’t be done as things stand now."};

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
  const mark = newMark();
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

// Whether no answer can be had: a network of the yard may be there and lead nowhere.
async function away() {
  if (!navigator.onLine) return true;
  try {
    return !(await fetch("/healthz", {cache: "no-store", signal: AbortSignal.timeout(PROBE)})).ok;
  } catch (error) {
    return true;
  }
}

async function keepForm(form, submitter) {
  const all = [...new FormData(form, submitter)].filter(([name]) => name !== "mark");
  const mark = newMark(), heading = form.dataset.keptAway, title = all.find(([name, value]) => name === "title" && value)?.[1];
  await keepTick({
    url: form.getAttribute("action") ?? location.pathname,
    fields: [...all.filter(([, value]) => typeof value === "string"), ["mark", mark], ["ticked_at", new Date().toISOString()], ["by", account()]],
    files: all.filter(([, value]) => typeof value !== "string" && value.size),
    by: account(),
    of: `${form.getAttribute("action")} ${mark}`,
    what: title ? `${heading}: ${title}` : heading,
    said: submitter?.textContent.trim() ?? "form",
    back: location.pathname,
  });
  form.reset();
  await show();
  document.getElementById("kept")?.scrollIntoView({block: "center"});
}

document.addEventListener("submit", (event) => {
  const form = event.target, submitter = event.submitter;
  if (!form.matches("form[data-kept-away]") || typeof indexedDB === "undefined" || form.dataset.through || !account()) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  if (form.dataset.asking) return;
  form.dataset.asking = "yes";
  away().then((gone) => {
    if (gone) return keepForm(form, submitter);
    form.dataset.through = "yes"; // as any form
    form.requestSubmit(submitter);
    return null;
  }).finally(() => {
    delete form.dataset.asking;
    delete form.dataset.through;
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
  const forms = [`${root}/found`, `${root}/stores/receive`, `${root}/day/${document.body.dataset.today}`];
  const pages = here ? ["/no-signal", `${root}/morning`, `${root}/launch`, ...stages, ...steps, ...forms] : ["/no-signal"];
  worker.postMessage({keep: [...assets.map((one) => new URL(one).pathname + new URL(one).search), ...pages]});
}
addEventListener("load", () => ready().catch(() => null));

document.addEventListener("submit", (event) => {
  if (event.target.getAttribute("action") !== "/sign-out" || !navigator.serviceWorker?.controller) return;
  navigator.serviceWorker.controller.postMessage({forget: true}); // what was kept of the boat goes with whoever leaves
});
