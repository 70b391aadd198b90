// Passkeys: a device makes one, or proves by one who somebody is. What it is asked and what it answers goes through the server as JSON.
const there = () => typeof PublicKeyCredential !== "undefined" && PublicKeyCredential.parseCreationOptionsFromJSON;
// A passkey belongs to a name; an address of numbers has none.
const named = () => !/^[\d.]+$|^\[/.test(location.hostname);

function told(form, words) {
  const place = form.querySelector("[data-told]");
  place.textContent = words;
  place.hidden = !words;
}

async function sent(form, address, more = {}) {
  const body = new URLSearchParams([...new FormData(form)].filter(([name]) => name !== "mark"));
  for (const [name, value] of Object.entries(more)) body.set(name, value);
  return fetch(address, {method: "POST", body, credentials: "same-origin", signal: AbortSignal.timeout(20000)});
}

async function make(form) {
  const asked = await sent(form, form.dataset.options);
  if (!asked.ok) throw new Error("Rovask gave no answer that can be used; try again.");
  const key = await navigator.credentials.create({publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(await asked.json())});
  form.elements.proof.value = JSON.stringify(key.toJSON());
  form.submit();
}

async function prove(form) {
  const asked = await sent(form, form.dataset.options);
  const options = await asked.json();
  if (!asked.ok) throw new Error(options.told ?? "Rovask gave no answer that can be used; try again.");
  const key = await navigator.credentials.get({publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(options)});
  const answer = await sent(form, form.getAttribute("action"), {proof: JSON.stringify(key.toJSON())});
  const came = await answer.json();
  if (!answer.ok) throw new Error(came.told);
  location.assign(came.to);
}

const WHY = {
  NotAllowedError: "This device did not go on: it was cancelled, took too long, or has no passkey for this address.",
  InvalidStateError: "This device has a passkey for you already.",
  SecurityError: "Passkeys want https and a name, not an address of numbers.",
  TimeoutError: "No answer came from Rovask; try again.",
  TypeError: "No answer came from Rovask; try again.",
};

// A form is there once its device can do it; pages are swapped in place, so each is looked at as it comes.
function look() {
  for (const form of document.querySelectorAll("form[data-passkey]")) {
    form.hidden = !there() || !named();
    const why = document.querySelector("[data-passkey-why]");
    if (why) why.hidden = !there() || named();
  }
}

document.addEventListener("submit", (event) => {
  const form = event.target;
  if (!form.matches("form[data-passkey]")) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  const button = form.querySelector("button");
  button.disabled = true;
  told(form, "");
  (form.dataset.passkey === "new" ? make(form) : prove(form))
    .catch((error) => told(form, WHY[error.name] ?? error.message))
    .finally(() => { button.disabled = false; });
}, true);

look();
document.addEventListener("htmx:after:swap", look);
