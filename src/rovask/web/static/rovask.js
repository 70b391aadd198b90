// Keys, the help dialog and the arrow keys on the Slip. Every page works without this file.
"use strict";

const typing = (element) => element.closest("input, textarea, select") !== null;

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
  if (event.key === "?") {
    document.getElementById("help")?.showModal();
    event.preventDefault();
    return;
  }
  const block = event.target.closest("[data-nudge]");
  if (block && event.shiftKey && (event.key === "ArrowLeft" || event.key === "ArrowRight")) {
    const form = document.getElementById("nudge");
    if (form) {
      form.action = block.dataset.nudge;
      form.elements.hours.value = event.key === "ArrowLeft" ? "-1" : "1";
      markAnew(form);
      form.requestSubmit();
      event.preventDefault();
    }
    return;
  }
  if (block && !event.shiftKey && event.key.startsWith("Arrow")) {
    const next = neighbour(block, event.key);
    if (next) next.focus();
    event.preventDefault();
    return;
  }
  const target = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (target) {
    target.click();
    event.preventDefault();
  }
});

// From block to block of the Slip: the nearest that way, what lies in the same row before what lies aslant.
function neighbour(block, key) {
  const middle = (one) => { const box = one.getBoundingClientRect(); return [box.x + box.width / 2, box.y + box.height / 2]; };
  const [x, y] = middle(block), sideways = key === "ArrowLeft" || key === "ArrowRight";
  const sign = key === "ArrowRight" || key === "ArrowDown" ? 1 : -1;
  let best = null, least = Infinity;
  for (const one of block.closest("svg").querySelectorAll("[data-nudge]")) {
    const [x1, y1] = middle(one);
    const [along, across] = sideways ? [(x1 - x) * sign, Math.abs(y1 - y)] : [(y1 - y) * sign, Math.abs(x1 - x)];
    if (one === block || along <= 0.5) continue;
    const far = along + across * 3;
    if (far < least) [best, least] = [one, far];
  }
  return best;
}

// After a block was moved, or a page came anew in place, the focus is where it was.
let focused = null;
document.addEventListener("htmx:before:swap", () => {
  const one = document.activeElement?.closest?.("svg.slip [data-nudge]");
  focused = one?.dataset.nudge ?? null;
});
document.addEventListener("htmx:after:swap", () => {
  if (!focused || document.activeElement?.closest?.("svg.slip [data-nudge]")) return;
  const shown = [...document.querySelectorAll(`[data-nudge="${CSS.escape(focused)}"]`)].find((one) => one.getClientRects().length);
  shown?.focus();
});

// A few lines more on a touch of the standing line: shown over the page, gone with it.
document.addEventListener("htmx:after:swap", () => {
  const brief = document.getElementById("brief");
  if (brief?.childElementCount && !brief.matches(":popover-open") && briefly) {
    brief.showPopover();
    brief.querySelector("a")?.focus();
  }
  briefly = false;
});
let briefly = false;
document.addEventListener("htmx:before:swap", (event) => {
  briefly = Boolean(event.detail?.ctx?.sourceElement?.matches?.("[hx-target='#brief']"));
  const brief = document.getElementById("brief");
  if (!briefly && brief?.matches(":popover-open")) brief.hidePopover();
});

// A block is dragged sideways to pin it; the plan is worked out again round it. A tap or a short slip is a choice.
const LEAST_DRAG = 6;
let drag = null;
document.addEventListener("pointerdown", (event) => {
  const block = event.target.closest("svg.slip [data-drop]");
  if (!block || event.button !== 0) return;
  drag = {block, svg: block.closest("svg"), x: event.clientX, moved: false, id: event.pointerId};
});
document.addEventListener("pointermove", (event) => {
  if (!drag || event.pointerId !== drag.id) return;
  const by = event.clientX - drag.x;
  if (Math.abs(by) < LEAST_DRAG && !drag.moved) return;
  drag.moved = true;
  drag.block.classList.add("dragged");
  drag.block.setAttribute("transform", `translate(${by * drag.svg.viewBox.baseVal.width / drag.svg.clientWidth} 0)`);
});
document.addEventListener("pointerup", (event) => {
  const done = drag;
  drag = null;
  if (!done || !done.moved) return;
  const scale = done.svg.viewBox.baseVal.width / done.svg.clientWidth;
  const x = Number(done.block.dataset.x) + (event.clientX - done.x) * scale;
  const knots = JSON.parse(done.svg.dataset.knots);
  const at = Math.max(1, knots.findIndex(([, right]) => right >= x));
  const [[from, left], [to, right]] = [knots[at - 1], knots[at] ?? knots[knots.length - 1]];
  const moment = Date.parse(from) + (Date.parse(to) - Date.parse(from)) * (x - left) / (right - left || 1);
  const form = document.getElementById("drop");
  form.action = done.block.dataset.drop;
  form.elements.at.value = new Date(moment).toISOString();
  markAnew(form);
  form.requestSubmit();
});
document.addEventListener("dragstart", (event) => {
  if (event.target.closest?.("svg.slip")) event.preventDefault();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("svg.slip .dragged")) event.preventDefault();
}, true);

// News of the search for a better plan, while it runs; when it is over the page shows what came of it.
let news = null;
function listen() {
  const place = document.querySelector("[data-news]");
  if (news && (!place || news.url !== new URL(place.dataset.news, location).href)) {
    news.close();
    news = null;
  }
  if (!place || news || typeof EventSource === "undefined") return;
  news = new EventSource(place.dataset.news);
  const show = (event) => {
    const here = document.querySelector("[data-news]");
    if (here) here.innerHTML = event.data;
  };
  news.addEventListener("news", show);
  news.addEventListener("over", (event) => {
    show(event);
    news.close();
    news = null;
    document.querySelector("[data-news]")?.removeAttribute("data-news");
    document.getElementById("renew")?.removeAttribute("hidden");
  });
}
document.addEventListener("DOMContentLoaded", listen);
document.addEventListener("htmx:after:swap", listen);

// A long list in a form can be searched: by the words of an entry or of the heading it stands under.
const LONG_LIST = 20;
function findable() {
  for (const list of document.querySelectorAll("[data-find]:not([data-found])")) {
    const isSelect = list.tagName === "SELECT";
    const entries = [...list.querySelectorAll(isSelect ? "option" : "label")];
    list.dataset.found = "";
    if (entries.length <= LONG_LIST) continue;
    const words = entries.map((one) => `${one.parentElement.label ?? ""} ${one.textContent}`.toLowerCase());
    const whole = [...list.childNodes].map((one) => one.cloneNode(true));
    const field = document.createElement("input");
    field.type = "search";
    field.placeholder = "find in this list";
    field.autocomplete = "off";
    field.setAttribute("aria-label", "find in this list");
    field.className = "mb-1";
    field.addEventListener("keydown", (event) => {
      if (event.key !== "Enter") return;
      event.preventDefault(); // takes the first that fits, and sends no half-filled form
      const first = isSelect && [...list.options].find((one) => one.dataset.fits);
      if (first) list.value = first.value;
    });
    field.addEventListener("input", () => {
      const asked = field.value.toLowerCase().split(/\s+/).filter(Boolean);
      const fits = (at) => asked.every((word) => words[at].includes(word));
      if (!isSelect) {
        entries.forEach((one, at) => { one.hidden = !fits(at) && !one.querySelector(":checked"); });
        for (const fold of list.querySelectorAll("details")) fold.open = asked.length > 0 || !!fold.querySelector(":checked");
        return;
      }
      // options can't be hidden everywhere: the list is made again of those that fit and the one that is chosen
      const chosen = list.value;
      list.replaceChildren(...whole.map((one) => one.cloneNode(true)));
      [...list.options].forEach((one, at) => {
        if (asked.length && fits(at)) one.dataset.fits = "yes";
        else if (asked.length && one.value !== chosen) one.remove();
      });
      for (const heading of list.querySelectorAll("optgroup")) if (!heading.children.length) heading.remove();
      const left = [...list.options].filter((one) => one.dataset.fits);
      list.value = left.length === 1 ? left[0].value : chosen;
    });
    list.before(field);
  }
}
document.addEventListener("DOMContentLoaded", findable);
document.addEventListener("htmx:after:swap", findable);

// On paper everything is open.
addEventListener("beforeprint", () => {
  for (const one of document.querySelectorAll("main details:not([open], .no-print)")) one.open = one.dataset.shut = true;
});
addEventListener("afterprint", () => {
  for (const one of document.querySelectorAll("details[data-shut]")) { one.open = false; delete one.dataset.shut; }
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-close]")) event.target.closest("dialog")?.close();
  if (event.target.closest("[data-print]")) window.print();
  if (event.target.closest("[data-back]")) history.back();
  const every = event.target.closest("input[data-every]"); // ticks every box of that name in its form, or none
  if (every) for (const one of document.querySelectorAll(`input[form="${every.dataset.every}"][type=checkbox]`)) one.checked = every.checked;
});

// What takes longer than a moment says that it is being worked out, and what.
const A_MOMENT = 500;
let slow = null;
function atRest() {
  clearTimeout(slow);
  const place = document.getElementById("working");
  if (place) place.hidden = true;
}
document.addEventListener("htmx:before:request", (event) => {
  const source = event.detail?.ctx?.sourceElement ?? event.target;
  const asked = source.closest?.("form, a");
  if (!asked) return;
  clearTimeout(slow);
  slow = setTimeout(() => {
    const place = document.getElementById("working");
    if (!place) return;
    place.textContent = asked.dataset.working ?? "Working it out …";
    place.hidden = false;
  }, A_MOMENT);
});
document.addEventListener("htmx:finally:request", atRest);
document.addEventListener("htmx:error", atRest);

// What is worked out of the fields of a form is grey, and what would be made of it waits, from the first sign that is typed
// until the answer to the last change is here: an older answer never stands beside newer fields.
let typedFrom = null;
function stale(form, is) {
  for (const place of document.querySelectorAll(form.dataset.asks)) {
    place.classList.toggle("stale", is);
    place.toggleAttribute("aria-busy", is);
    for (const button of place.querySelectorAll("button")) button.toggleAttribute("disabled", is);
  }
}
document.addEventListener("focusin", (event) => {
  typedFrom = event.target.closest?.("form[data-asks]") ? event.target.value : null;
});
document.addEventListener("input", (event) => {
  const form = event.target.closest?.("form[data-asks]");
  if (form && !form.dataset.asked) stale(form, event.target.value !== typedFrom);
});
document.addEventListener("change", (event) => {
  const form = event.target.closest?.("form[data-asks]");
  if (!form) return;
  form.dataset.asked = "";
  typedFrom = event.target.value;
  stale(form, true);
}, true);
document.addEventListener("htmx:after:swap", (event) => {
  const form = event.detail?.ctx?.sourceElement;
  if (!form?.matches?.("form[data-asks]")) return;
  const here = document.querySelector("form[data-asks]");
  for (const one of new Set([form, here])) {
    if (!one) continue;
    delete one.dataset.asked;
    stale(one, false);
  }
});
// What was still being settled of what is no longer shown comes too late; so does what is asked for again by itself while fields
// are newer than what is shown.
document.addEventListener("htmx:before:swap", (event) => {
  const ctx = event.detail?.ctx;
  if (ctx?.sourceElement?.matches?.("[data-waits], #effect") && document.querySelector(".stale")) event.preventDefault();
  if (ctx?.sourceElement?.id !== "effect") return;
  const asked = new URL(ctx.request?.action ?? location, location);
  asked.searchParams.delete("settled");
  const shown = new URL(location);
  if (asked.pathname !== shown.pathname || asked.searchParams.toString() !== shown.searchParams.toString()) event.preventDefault();
});

// A form that is under way is not sent twice, by a double click say.
const LONGEST = 25000;
document.addEventListener("submit", (event) => {
  const form = event.target;
  if (form.method !== "post" || form.matches("[data-kept]")) return; // kept.js has its own way
  if (form.matches("[data-kept-away]") && !form.dataset.through) return; // it asks first whether there is a signal
  if (Date.now() - Number(form.dataset.underWay ?? 0) < LONGEST) {
    event.preventDefault();
    event.stopImmediatePropagation();
    return;
  }
  form.dataset.underWay = Date.now();
}, true);
function cameBack(event) {
  const form = (event.detail?.ctx?.sourceElement ?? event.target)?.closest?.("form");
  if (form) delete form.dataset.underWay;
}
document.addEventListener("htmx:finally:request", cameBack);
document.addEventListener("htmx:error", cameBack);

// The mark by which a form is done once (web/sent_once.py). A page that is shown again from the browser's own memory, and a
// form that is used over and over, get new ones: what is sent with them is meant anew.
function newMark() {
  return [...crypto.getRandomValues(new Uint8Array(8))].map((one) => one.toString(16).padStart(2, "0")).join("");
}
function markAnew(form) {
  if (form.elements.namedItem("mark")) form.elements.namedItem("mark").value = newMark();
}
addEventListener("pageshow", (event) => {
  for (const form of document.forms) {
    delete form.dataset.underWay;
    if (event.persisted) markAnew(form);
  }
});

// When the answer to a form is lost, nobody knows yet whether it was done: Rovask is asked until it says.
const ASKED = 5, ASK_AGAIN = 2000;
function told(words) {
  const place = document.getElementById("connection");
  if (!place) return;
  place.textContent = words;
  place.hidden = words === "";
}
async function askWhether(mark) {
  for (let said = 0; said < ASKED;) {
    await new Promise((go) => setTimeout(go, ASK_AGAIN));
    try {
      const answer = await fetch(`/sent/${mark}`, {cache: "no-store", signal: AbortSignal.timeout(8000)});
      if (answer.status === 401) return told("Not known yet whether this arrived: sign in again in another window, then send it again. What was done isn't done twice.");
      if (!answer.ok) throw new TypeError("no answer");
      const {done, to} = await answer.json();
      if (done) {
        told("It arrived and is done.");
        location.assign(to || location.href);
        return;
      }
      said += 1;
      told("Not known yet whether this arrived. Asking …");
    } catch (error) {
      if (error.name !== "TypeError" && error.name !== "TimeoutError" && error.name !== "SyntaxError") throw error;
      told("Not known yet whether this arrived: Rovask does not answer. It is asked again; what you typed is still here.");
    }
  }
  told("It did not arrive: nothing was changed, and what you typed is still here. Send it again.");
}
document.addEventListener("htmx:error", (event) => {
  const form = event.detail?.ctx?.sourceElement?.closest?.("form");
  const mark = form?.method === "post" ? form.elements.namedItem("mark")?.value : "";
  if (!mark) return told("Rovask did not answer. What you typed is still here. Try again.");
  told("Not known yet whether this arrived. Asking …");
  askWhether(mark);
});
document.addEventListener("htmx:after:swap", () => {
  const fault = document.querySelector("[data-first-fault]");
  if (fault) fault.focus();
});

// A calendar beside every field that takes a day. It writes the day first, as every page does, and leaves the time alone.
const DAYS = /^(?:[A-Za-z]{2,9},? )?(\d{1,2})[. ] ?(\d{1,2}|[A-Za-z]{3})[a-z]*[. ] ?(\d{4})/;
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
document.addEventListener("focusin", (event) => {
  const field = event.target.closest?.('input[placeholder^="27 May 2026"]');
  if (!field || field.dataset.day || !customElements.get("calendar-date")) return;
  field.dataset.day = "shown";
  const button = Object.assign(document.createElement("button"), { type: "button", className: "day-button", textContent: "calendar" });
  button.setAttribute("aria-label", "Choose a day");
  button.dataset.calendar = "";
  field.after(button);
});
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-calendar]");
  const open = document.querySelector(".day-choice");
  if (!button) { if (open && !event.target.closest(".day-choice")) open.remove(); return; }
  const was = open?.previousElementSibling === button;
  open?.remove();
  if (was) return;
  const field = button.previousElementSibling, found = field.value.trim().match(DAYS);
  const choice = document.createElement("div");
  choice.className = "day-choice";
  const calendar = Object.assign(document.createElement("calendar-date"), { firstDayOfWeek: 1, locale: "en-GB" });
  const month = found && (MONTHS.findIndex((one) => one.toLowerCase() === found[2].toLowerCase()) + 1 || Number(found[2]));
  if (month) calendar.value = `${found[3]}-${String(month).padStart(2, "0")}-${found[1].padStart(2, "0")}`;
  else if (document.body.dataset.today) calendar.focusedDate = document.body.dataset.today;
  calendar.append(document.createElement("calendar-month"));
  calendar.addEventListener("change", () => {
    const [year, month, day] = calendar.value.split("-").map(Number);
    const rest = found ? field.value.trim().slice(found[0].length) : "";
    field.value = `${day} ${MONTHS[month - 1]} ${year}${rest}`;
    choice.remove();
    field.focus();
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.dispatchEvent(new Event("change", { bubbles: true }));
  });
  choice.append(calendar);
  button.after(choice);
  calendar.focus?.();
});
document.addEventListener("keydown", (event) => {
  const open = document.querySelector(".day-choice");
  if (event.key !== "Escape" || !open) return;
  open.previousElementSibling?.previousElementSibling?.focus();
  open.remove();
});
