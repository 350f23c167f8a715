// What is typed but not yet acknowledged by the server: kept, marked "not saved", and sent again
// under the same key. Also says in words what a refused request means.
const RETRY_AFTER = 4000;
const refusal = document.getElementById("refusal");
let timer = 0;

const form = () => document.querySelector("form[data-outbox]");
const slot = () => `recensor.outbox.${location.pathname}`;
const pending = () => JSON.parse(localStorage.getItem(slot()) ?? "null");

// Another tab may have signed in anew since this page was made: always the newest token.
const token = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1];

function keep(values) {
  localStorage.setItem(slot(), JSON.stringify(values));
}

function show(reason) {
  const line = form()?.querySelector("[data-not-saved]");
  const kept = pending();
  if (!line || !kept) return;
  line.hidden = false;
  line.textContent = `Not saved: ${kept.text} ${kept.unit}. ${reason}`;
}

function fill(kept) {
  for (const [name, value] of Object.entries(kept)) {
    const field = form().elements.namedItem(name);
    if (field && name !== "csrfmiddlewaretoken") field.value = value;
  }
}

function resend() {
  clearTimeout(timer);
  const kept = pending();
  if (!kept || !form()) return;
  fill(kept);
  htmx.ajax("POST", form().getAttribute("action"), { source: form(), target: "#bench", swap: "outerHTML" });
}

function again(reason) {
  show(reason);
  clearTimeout(timer);
  timer = setTimeout(resend, RETRY_AFTER);
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
  if (event.target !== form()) return;
  const values = Object.fromEntries(new FormData(form()));
  if (values.text.trim()) keep(values);
});

// As soon as an answer is here, before it is shown: a page left in between must not send it again.
document.addEventListener("htmx:beforeOnLoad", (event) => {
  const { status } = event.detail.xhr;
  if (status !== 200 && status !== 409 && status !== 422) return;
  refusal.hidden = true;
  if (event.target === form()) localStorage.removeItem(slot());
});

document.addEventListener("htmx:sendError", (event) => {
  if (event.target === form()) again("No connection; it is sent again by itself.");
  else refuse("No connection. Nothing was changed; try again.");
});
document.addEventListener("htmx:timeout", (event) => {
  if (event.target === form()) again("No answer yet; it is sent again by itself.");
});

document.addEventListener("htmx:responseError", (event) => {
  const { status } = event.detail.xhr;
  const mine = event.target === form();
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
addEventListener("load", () => {
  if (pending() && form()) {
    fill(pending());
    again("It was typed before and is sent now.");
    resend();
  }
});
