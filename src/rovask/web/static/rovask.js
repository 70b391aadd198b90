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
      form.requestSubmit();
      event.preventDefault();
    }
    return;
  }
  const target = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
  if (target) {
    target.click();
    event.preventDefault();
  }
});

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-close]")) event.target.closest("dialog")?.close();
  if (event.target.closest("[data-print]")) window.print();
});

// A form that is under way is not sent twice; a failed send says so and keeps what was typed.
document.addEventListener("htmx:error", () => {
  const place = document.getElementById("connection");
  if (place) place.hidden = false;
});
document.addEventListener("htmx:after:swap", () => {
  const fault = document.querySelector("[data-first-fault]");
  if (fault) fault.focus();
});
