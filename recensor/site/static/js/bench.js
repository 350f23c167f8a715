// Small moves on the bench page: keys, sign and over-range buttons, whole rows of the ledger.
import "./lights.js";

const entry = () => document.getElementById("reading-text");
const keys = () => document.getElementById("keys");

function press(selector) {
  document.querySelector(selector)?.click();
}

document.addEventListener("keydown", (event) => {
  if (event.key === "PageDown") press("[data-point-after]");
  else if (event.key === "PageUp") press("[data-point-before]");
  else if (event.key === "Backspace" && event.altKey) press("[data-undo]");
  else if (event.key === "?" && !event.target.closest("input:not(#reading-text)")) keys()?.showModal();
  else return;
  event.preventDefault();
});

document.addEventListener("click", (event) => {
  const target = event.target;
  if (target.closest("[data-keys]")) keys()?.showModal();
  if (target.closest("[data-turn-sign]")) {
    entry().value = /^[-−]/.test(entry().value) ? entry().value.slice(1) : `-${entry().value}`;
    entry().focus();
  }
  if (target.closest("[data-over-range]")) {
    entry().value = "OL";
    entry().focus();
  }
  const row = target.closest(".row-point");
  if (row && !target.closest("a")) row.querySelector("a").click();
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
