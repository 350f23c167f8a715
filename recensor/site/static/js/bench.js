// Small moves on the bench page: keys, sign and over-range buttons, whole rows of the ledger.
import "./cautions.js";
import "./lights.js";
import "./photo.js";
import "./power.js";
import "./probing.js";
import "./question.js";
import "./voice.js";

const entry = () => document.getElementById("reading-text");
const keys = () => document.getElementById("keys");

function press(selector) {
  document.querySelector(selector)?.click();
}

// To one's own calculation, whose field is opened where it is not yet.
function ownCalculation() {
  const field = document.getElementById("own-text");
  if (field) field.focus();
  else press("[data-own-value]");
}

// What a key does while Alt is held; digits answer a question (question.js).
const WITH_ALT = {
  Backspace: "[data-undo]",
  ArrowUp: "[data-point-before]",
  ArrowDown: "[data-point-after]",
  "-": "[data-leads-turned], form#entry [data-turn-sign]",
  t: "[data-swap]",
  r: "[data-read-again]",
  o: "form#entry [data-over-range]",
};

// In the field letters are typed, and a sign of equality means nothing: there it repeats what was read last.
const isEmpty = () => entry()?.value.trim() === "";

document.addEventListener("keydown", (event) => {
  const elsewhere = event.target.closest("input:not(#reading-text), select, textarea");
  if (event.altKey && WITH_ALT[event.key]) press(WITH_ALT[event.key]);
  else if (event.key === "?" && !elsewhere) keys()?.showModal();
  else if (event.key === "/" && !elsewhere) document.getElementById("find")?.focus();
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
  if (target.closest("[data-turn-sign]")) write((text) => (/^[-−]/.test(text) ? text.slice(1) : `-${text}`));
  if (target.closest("[data-over-range]")) write(() => "OL");
  const prefix = target.closest("[data-prefix]")?.dataset.prefix;
  if (prefix) write((text) => text.replace(/[kmµ]$/, "") + prefix);
  const row = target.closest(".row-point");
  if (row && !target.closest("a")) row.querySelector("a").click();
});

// The unit beside the digits is the page's until somebody chooses one; and an entry says when it was typed.
document.addEventListener("change", (event) => {
  if (event.target.matches("#entry [name=unit]")) event.target.form.elements.namedItem("unit_is_default").value = "";
});
document.addEventListener("htmx:configRequest", (event) => {
  if (event.target.id === "entry") event.detail.parameters.set("typed_at", new Date().toISOString());
});

// The page says which sections of the ledger it holds; of those the answer has the places only, and htmx puts the page's
// own there. Should another answer have changed one meanwhile, its place stays empty, and the ledger is asked for anew.
const sections = () => [...document.querySelectorAll("tbody.account")];

document.addEventListener("htmx:configRequest", (event) => {
  event.detail.headers["X-Held-Sections"] = sections().map(({ id }) => id).join(" ");
});
document.addEventListener("htmx:afterSwap", () => {
  if (!document.querySelector("tbody[hx-preserve]:empty")) return;
  for (const section of sections()) section.removeAttribute("id");
  htmx.ajax("GET", location.pathname, { target: ".ledger", select: ".ledger", swap: "outerHTML" });
});
