// What is typed but not yet acknowledged by the server: kept, marked "not saved", and sent again
// under the same key. Also says in words what a refused request means, keeps what is typed over a
// reload, and asks before somebody signs out with something unsaved.
const refusal = document.getElementById("refusal");
let timer = 0;
let tries = 0;
const MOST_FAILURES = 5; // of the server in a row, until it is left to the person to send again

const form = () => document.querySelector("form[data-outbox]");
const shownKey = () => form()?.elements.namedItem("key").value;

// Every entry that waits for its answer, by its key: what was typed, where it goes, and which part of the page its
// answer replaces. Kept over a reload and a new sign-in, and sent also from a page that has no form any more.
const OUTBOX = "recensor.outbox.";
const slot = () => OUTBOX + location.pathname;

function waiting() {
  try {
    const entries = JSON.parse(localStorage.getItem(slot())) ?? {};
    return Object.fromEntries(Object.entries(entries).filter(([, entry]) => entry.values));
  } catch {
    return {}; // nothing that this page has written
  }
}

function remember(change) {
  const entries = waiting();
  change(entries);
  localStorage.setItem(slot(), JSON.stringify(entries));
}

// The entry that a request carries; undefined for every other request.
function entryOf(event) {
  const { path, formData } = event.detail.requestConfig;
  const values = Object.fromEntries(formData);
  delete values.csrfmiddlewaretoken; // the header carries the token of the sign-in that sends it
  const known = waiting()[values.key];
  if (known?.address === path) return { ...known, values };
  if (!form() || path !== form().getAttribute("action")) return undefined;
  return { values, address: path, live: form().dataset.outbox, wait: Number(form().dataset.retryAfter) };
}

const said = ({ values }) => (values.unit ? `${values.text} ${values.unit}` : values.text);
const isShown = (entry) => entry.values.key === shownKey();

// Another tab may have signed in anew since this page was made: always the newest token.
const token = () => document.cookie.match(/(?:^|; )(?:__Host-)?csrftoken=([^;]+)/)?.[1];

function show(reason) {
  const line = document.querySelector("[data-not-saved]") ?? refusal;
  const entries = Object.values(waiting());
  if (!entries.length) return;
  line.hidden = false;
  line.textContent = `Not saved: ${entries.map(said).join(", ")}. ${reason} `;
  for (const [label, act] of [["send now", resend], ["discard", discard]]) {
    const button = document.createElement("button");
    Object.assign(button, { type: "button", className: "link", textContent: label });
    button.addEventListener("click", act);
    line.append(button, " ");
  }
}

function discard() {
  clearTimeout(timer);
  remember((entries) => { for (const key in entries) delete entries[key]; });
  const line = document.querySelector("[data-not-saved]");
  if (line) line.hidden = true;
  refuse("Discarded here. Had it been recorded and only the answer lost, it stands all the same: reload the page to see.");
}

// An entry of the point on the page goes on to the next one; any other leaves what is being typed alone.
const send = ({ address, values, live: target }, swap) => htmx
  .ajax("POST", address, { values, target, swap })
  .catch(() => undefined); // told by the events below

function resend() {
  clearTimeout(timer);
  for (const entry of Object.values(waiting())) send(entry, isShown(entry) ? "outerHTML" : "none");
}

// Each time after twice as long as before.
function again(entry, reason) {
  show(`${reason}; it is sent again by itself.`);
  clearTimeout(timer);
  timer = setTimeout(resend, entry.wait * 2 ** Math.min(tries, 5));
  tries += 1;
}

function refuse(text, link, words = " Sign in") {
  refusal.textContent = text;
  if (link) {
    const anchor = document.createElement("a");
    anchor.href = link;
    anchor.textContent = words;
    refusal.append(anchor);
  }
  refusal.hidden = false;
}

document.addEventListener("htmx:configRequest", (event) => {
  const newest = token();
  if (newest) event.detail.headers["X-CSRFToken"] = newest;
});

document.addEventListener("htmx:beforeRequest", (event) => {
  const entry = entryOf(event);
  if (entry?.values.text.trim()) remember((entries) => { entries[entry.values.key] = entry; });
});

// As soon as an answer is here, before it is shown: a page left in between must not send it again.
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const { status } = event.detail.xhr;
  if (status !== 200 && status !== 409 && status !== 422) return;
  refusal.hidden = true;
  const entry = entryOf(event);
  if (!entry) return;
  tries = 0;
  remember((entries) => { delete entries[entry.values.key]; });
  // The answer to an entry of another point is not shown, so a refusal must be said here.
  if (status !== 200 && !isShown(entry)) {
    refuse(`The server did not take ${said(entry)}, typed at another point. Choose that point and type it again.`);
  }
  keepWhatIsTyped(event, entry);
});

// What was typed while the answer was on its way stays, under the key that the answer gives to the next entry.
function keepWhatIsTyped(event, entry) {
  const { xhr } = event.detail;
  const field = form()?.elements.namedItem("text");
  if (!field || !isShown(entry) || [entry.values.text, ""].includes(field.value)) return;
  const answer = new DOMParser().parseFromString(xhr.responseText, "text/html");
  const key = answer.querySelector("form[data-outbox] [name=key]")?.value;
  if (!key) return;
  event.preventDefault();
  form().elements.namedItem("key").value = key;
  const found = form().elements.namedItem("replaces_seen");
  if (found) found.value = answer.querySelector("[data-recorded]")?.dataset.recorded ?? found.value;
  document.querySelector("[data-not-saved]").hidden = true;
  refuse(xhr.status === 200
    ? `${said(entry)} is recorded. What you typed since is not yet: Record takes it as a further reading of this point.`
    : `The server did not take ${said(entry)}. What you typed since is still here.`);
}

const UNKNOWN = "Whether this was done is not known: reload the page and look before you do it again.";

document.addEventListener("htmx:sendError", (event) => {
  const entry = entryOf(event);
  if (entry) again(entry, "No connection");
  else refuse(`No connection. ${UNKNOWN}`);
});
document.addEventListener("htmx:timeout", (event) => {
  const entry = entryOf(event);
  if (entry) again(entry, "No answer yet");
  else refuse(`No answer yet. ${UNKNOWN}`);
});

document.addEventListener("htmx:responseError", (event) => {
  const { status } = event.detail.xhr;
  const mine = entryOf(event);
  if (status === 401 || status === 403) {
    if (mine) show("It is sent when you are signed in again.");
    refuse("You are signed out; what you typed is kept here.", `/sign-in/?next=${encodeURIComponent(location.pathname)}`);
  } else if (status === 503) {
    if (mine) again(mine, "The server cannot record at the moment");
    else refuse("The server cannot do this at the moment; what was recorded is safe. Try again in a while.");
  } else if (status >= 500) {
    if (!mine) refuse(`The server failed. ${UNKNOWN}`);
    else if (tries < MOST_FAILURES) again(mine, "The server failed");
    else show("The server fails at it each time; it is not sent by itself any more.");
  } else {
    refuse("The server does not take this. Reload the page; what you typed is kept.");
  }
});

addEventListener("online", resend);
addEventListener("load", async () => {
  // This page was made before these are recorded: the last one's answer brings it up to date.
  for (const entry of Object.values(waiting())) {
    await send(entry, "outerHTML");
  }
});

// What is typed and not sent yet outlives a reload of its page.
const draft = () => `recensor.typed.${location.pathname}${form()?.elements.namedItem("measurement")?.value ?? ""}`;
const typed = () => form()?.elements.namedItem("text");

addEventListener("pagehide", () => {
  if (!typed()) return;
  if (typed().value) sessionStorage.setItem(draft(), typed().value);
  else sessionStorage.removeItem(draft());
});
addEventListener("DOMContentLoaded", () => {
  const kept = typed() && sessionStorage.getItem(draft());
  if (!kept) return;
  sessionStorage.removeItem(draft());
  if (!typed().value && !Object.keys(waiting()).length) typed().value = kept;
});

// Whoever signs out leaves nothing of theirs in this browser; what is not saved yet is asked about.
const ours = () => Object.keys(localStorage).filter((key) => key.startsWith("recensor.") && key !== "recensor.theme");
const unsent = () => ours().filter((key) => key.startsWith(OUTBOX) && localStorage.getItem(key) !== "{}");

document.addEventListener("submit", (event) => {
  if (!event.target.matches("[data-sign-out]")) return;
  const places = unsent().map((key) => key.slice(OUTBOX.length));
  if (places.length && !event.target.dataset.asked) {
    event.preventDefault();
    event.target.dataset.asked = "yes";
    refuse("Something you typed is not saved yet. Open its page to send it, or sign out once more to leave it.", places[0], " Open it");
    return;
  }
  for (const key of ours()) localStorage.removeItem(key);
  sessionStorage.clear();
});
