// Small moves on the bench page: keys, sign and over-range buttons, whole rows of the table of readings.
import "./awake.js";
import "./cautions.js";
import "./explained.js";
import "./lights.js";
import "./pieces.js";
import "./photo.js";
import "./power.js";
import "./probing.js";
import "./question.js";
import "./said.js";
import "./strip.js";

const entry = () => document.getElementById("reading-text");
const keys = () => document.getElementById("keys");

function press(selector) {
  document.querySelector(selector)?.click();
}

// What is rarely used opens below the instruction, and the page remembers that it is open.
let isOpen = false;

function showMore(open) {
  isOpen = open;
  document.getElementById("more")?.classList.toggle("more-closed", !open);
  document.querySelector("[data-more]")?.setAttribute("aria-expanded", String(open));
}

// One's own calculation: the key that opens its field puts the cursor there.
function ownCalculation() {
  const field = () => document.getElementById("own-text");
  if (field()) field().focus();
  else {
    document.addEventListener("htmx:afterSettle", () => field()?.focus(), { once: true });
    press("[data-own-value]");
  }
}

function find() {
  if (document.getElementById("more")) showMore(true);
  document.getElementById("find")?.select();
}

// What a key does while Alt is held; digits answer a question (question.js), letters of tabs open their panes.
const WITH_ALT = {
  Backspace: "[data-undo]",
  ArrowUp: "[data-point-before]",
  ArrowDown: "[data-point-after]",
  "-": "[data-leads-turned], body:not(:has([data-leads-turned])) form#entry [data-turn-sign]",
  l: "[data-sheet]",
  m: "[data-more]",
  o: "form#entry [data-over-range]",
  r: "[data-read-again]",
  t: "[data-swap]",
};

// In the field letters are typed, and a sign of equality means nothing: there it repeats what was read last.
const isEmpty = () => entry()?.value.trim() === "";

document.addEventListener("keydown", (event) => {
  const elsewhere = event.target.closest("input:not(#reading-text), select, textarea");
  const tab = event.altKey && document.querySelector(`[data-tab="${CSS.escape(event.key)}"]`);
  if (tab) tab.click();
  else if (event.altKey && WITH_ALT[event.key]) press(WITH_ALT[event.key]);
  else if (event.key === "Enter" && !event.shiftKey && event.target.dataset?.entersSend !== undefined) {
    event.target.form.requestSubmit();
  } else if (event.key === "?" && !elsewhere) keys()?.showModal();
  else if (event.key === "/" && !elsewhere) find();
  else if (event.altKey && event.key === "c") ownCalculation();
  else if (event.key === "=" && !elsewhere && isEmpty()) press("[data-repeat]");
  else if (event.key === "Escape" && event.target.closest("[data-find]")) entry()?.focus();
  else return;
  event.preventDefault();
});

function write(change) {
  entry().value = change(entry().value.trim());
  entry().focus();
}

document.addEventListener("click", (event) => {
  const target = event.target;
  if (target.closest("[data-keys]")) keys()?.showModal();
  if (target.closest("[data-more]")) showMore(!isOpen);
  if (target.closest("[data-turn-sign]")) write((text) => (/^[-−]/.test(text) ? text.slice(1) : `-${text}`));
  if (target.closest("[data-over-range]")) write(() => "OL");
  const prefix = target.closest("[data-prefix]")?.dataset.prefix;
  if (prefix) write((text) => text.replace(/[kMmµ]$/, "") + prefix);
  const row = target.closest(".row-point");
  if (row && !target.closest("a")) row.querySelector("a").click();
});

// An answer that finds something wrong with what is in there opens it.
document.addEventListener("htmx:afterSettle", () => {
  showMore(isOpen || Boolean(document.querySelector("#more [aria-invalid]")));
});

// The row that is read next is in view, at the left and in a pane; where circuits are typed, that is where one goes on.
document.addEventListener("htmx:afterSettle", (event) => {
  for (const at of ["#sheet", "#pane"]) {
    document.querySelector(`${at} .table-active`)?.scrollIntoView({ block: "nearest" });
  }
  const typed = event.target.id === "pane" && document.querySelector("#pane [data-enters-send]");
  if (!typed) return;
  typed.focus({ preventScroll: true });
  event.target.scrollIntoView({ block: "start" });
});

// The unit beside the digits is the page's until somebody chooses one; and an entry says when it was typed.
document.addEventListener("change", (event) => {
  if (event.target.matches("#entry [name=unit]")) event.target.form.elements.namedItem("unit_is_default").value = "";
});
document.addEventListener("htmx:configRequest", (event) => {
  if (event.target.id === "entry") event.detail.parameters.set("typed_at", new Date().toISOString());
});
