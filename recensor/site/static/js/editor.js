// The circuit editor: the drawing chooses parts, and keys press the buttons. Everything also works without it.
import "./lights.js";

const rows = () => [...document.querySelectorAll(".row-part a")];

// A button says its own key. Where something is being typed none counts; a new part is typed first, its key then
// says where it goes.
const button = (key) => document.querySelector(`#editor button[data-key="${CSS.escape(key)}"]:not(:disabled)`);

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
  } else if (button(event.key)) button(event.key).click();
  else return;
  event.preventDefault();
});

// In the field of the new part: Enter puts it in series after, Escape leaves the field, and a key then places it.
document.addEventListener("keydown", (event) => {
  if (event.target.id === "what" && event.key === "Escape") event.target.blur();
});

// A part in the drawing chooses its row.
document.addEventListener("click", (event) => {
  const symbol = event.target.closest(".symbol[data-part]");
  if (symbol) document.querySelector(`[data-lights="${symbol.id}"] a`)?.click();
});
