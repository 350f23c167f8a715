// The circuit editor: the drawing chooses parts, and keys press the buttons. Everything also works without it.
const press = (selector) => document.querySelector(selector)?.click();
const rows = () => [...document.querySelectorAll(".row-part a")];
const act = (name) => `#editor button[name="act"][value="${name}"]:not(:disabled)`;

// Our own keys, where nothing is being typed; a new part is typed first, its key then says where it goes.
const ACTS = { u: "undo", U: "redo", s: "after", b: "before", p: "parallel", x: "exchange", Delete: "remove" };

function step(by) {
  const links = rows();
  const now = links.findIndex((link) => link.getAttribute("aria-current"));
  links[(now + by + links.length) % links.length]?.click();
}

document.addEventListener("keydown", (event) => {
  if (event.target.closest("input, textarea, select") || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "ArrowDown" || event.key === "ArrowRight") step(1);
  else if (event.key === "ArrowUp" || event.key === "ArrowLeft") step(-1);
  else if (/^[0-9?]$/.test(event.key) && document.getElementById("what")) {
    document.getElementById("what").value = event.key;
    document.getElementById("what").focus();
  } else if (ACTS[event.key]) press(act(ACTS[event.key]));
  else return;
  event.preventDefault();
});

// In the field of the new part: Enter puts it in series after, Escape leaves the field, and a key then places it.
document.addEventListener("keydown", (event) => {
  if (event.target.id === "what" && event.key === "Escape") event.target.blur();
});

document.addEventListener("click", (event) => {
  const symbol = event.target.closest(".symbol[data-part]");
  if (symbol) press(`.row-part[data-lights="${symbol.id}"] a`);
});

for (const [name, on] of [["mouseover", true], ["mouseout", false], ["focusin", true], ["focusout", false]]) {
  document.addEventListener(name, (event) => {
    const id = event.target.closest?.(".row-part")?.dataset.lights;
    if (id) document.getElementById(id)?.classList.toggle("symbol-hover", on);
  });
}
