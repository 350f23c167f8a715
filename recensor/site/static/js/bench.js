// Small moves on the bench page: keys, sign and over-range buttons, ledger and drawing tied together.
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
  const symbol = target.closest(".symbol[data-part]");
  if (symbol) press(`.row-point[data-lights="${symbol.id}"] a`);
});

// Pointing at a row lights its parts in the drawing.
for (const [name, on] of [["mouseover", true], ["mouseout", false], ["focusin", true], ["focusout", false]]) {
  document.addEventListener(name, (event) => {
    const lights = event.target.closest?.(".row-point")?.dataset.lights;
    for (const id of lights?.split(" ").filter(Boolean) ?? []) {
      document.getElementById(id)?.classList.toggle("symbol-hover", on);
    }
  });
}
