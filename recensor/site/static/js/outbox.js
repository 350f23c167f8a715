// What is typed but not yet acknowledged by the server: kept, marked "not saved", and sent again
// under the same key. Also says in words what a refused request means.
const refusal = document.getElementById("refusal");
let timer = 0;

const form = () => document.querySelector("form[data-outbox]");
const address = () => form().getAttribute("action");
const live = () => form().dataset.outbox; // the part of the page that the answer replaces
const shownKey = () => form()?.elements.namedItem("key").value;

// Every entry that waits for its answer, by its key; kept over a reload and a new sign-in.
const slot = () => `recensor.outbox.${location.pathname}`;
const waiting = () => JSON.parse(localStorage.getItem(slot()) ?? "{}");

function remember(change) {
  const entries = waiting();
  change(entries);
  localStorage.setItem(slot(), JSON.stringify(entries));
}

// The entry that a request carries; undefined for every other request.
function entryOf(event) {
  const { path, formData } = event.detail.requestConfig;
  if (!form() || path !== address()) return undefined;
  const entry = Object.fromEntries(formData);
  delete entry.csrfmiddlewaretoken; // the header carries the token of the sign-in that sends it
  return entry;
}

// Another tab may have signed in anew since this page was made: always the newest token.
const token = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1];

function show(reason) {
  const line = form()?.querySelector("[data-not-saved]");
  const entries = Object.values(waiting());
  if (!line || !entries.length) return;
  line.hidden = false;
  line.textContent = `Not saved: ${entries.map((entry) => `${entry.text} ${entry.unit}`).join(", ")}. ${reason}`;
}

// An entry of the point on the page goes on to the next one; any other leaves what is being typed alone.
function resend() {
  clearTimeout(timer);
  for (const entry of Object.values(waiting())) {
    const here = entry.key === shownKey();
    htmx.ajax("POST", address(), { values: entry, target: live(), swap: here ? "outerHTML" : "none" });
  }
}

function again(reason) {
  show(reason);
  clearTimeout(timer);
  timer = setTimeout(resend, Number(form().dataset.retryAfter));
}

function refuse(text, link) {
  refusal.textContent = text;
  if (link) {
    const anchor = document.createElement("a");
    anchor.href = link;
    anchor.textContent = " Sign in";
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
  if (entry?.text.trim()) remember((entries) => { entries[entry.key] = entry; });
});

// As soon as an answer is here, before it is shown: a page left in between must not send it again.
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const { status } = event.detail.xhr;
  if (status !== 200 && status !== 409 && status !== 422) return;
  refusal.hidden = true;
  const entry = entryOf(event);
  if (!entry) return;
  remember((entries) => { delete entries[entry.key]; });
  // The answer to an entry of another point is not shown, so a refusal must be said here.
  if (status !== 200 && entry.key !== shownKey()) {
    refuse(`The server did not take ${entry.text} ${entry.unit}, typed at another point. Choose that point and type it again.`);
  }
});

document.addEventListener("htmx:sendError", (event) => {
  if (entryOf(event)) again("No connection; it is sent again by itself.");
  else refuse("No connection. Nothing was changed; try again.");
});
document.addEventListener("htmx:timeout", (event) => {
  if (entryOf(event)) again("No answer yet; it is sent again by itself.");
});

document.addEventListener("htmx:responseError", (event) => {
  const { status } = event.detail.xhr;
  const mine = entryOf(event);
  if (status === 401 || status === 403) {
    if (mine) show("It is sent when you are signed in again.");
    refuse("You are signed out; what you typed is kept here.", `/sign-in/?next=${encodeURIComponent(location.pathname)}`);
  } else if (status >= 500) {
    if (mine) again("The server failed; it is sent again by itself.");
    else refuse("The server failed. Nothing was changed; try again.");
  } else {
    refuse("The server does not take this. Reload the page; what you typed is kept.");
  }
});

addEventListener("online", resend);
addEventListener("load", async () => {
  if (!form()) return;
  const entries = Object.values(waiting());
  // This page was made before these are recorded: the last one's answer brings it up to date.
  for (const entry of entries) {
    await htmx.ajax("POST", address(), { values: entry, target: live(), swap: "outerHTML" });
  }
});
