// The board under the pointer: its nets light up, and two holes chosen one after the other fill the form.
const holes = () => [...document.querySelectorAll(".hole")];
let chosen = [];

document.addEventListener("mouseover", (event) => {
  const net = event.target.closest?.(".hole")?.dataset.net;
  for (const hole of holes()) hole.classList.toggle("hole-same", net !== undefined && hole.dataset.net === net);
});

function mark() {
  for (const hole of holes()) hole.classList.toggle("hole-chosen", chosen.includes(hole.dataset.hole));
}

document.addEventListener("click", (event) => {
  const hole = event.target.closest(".hole");
  const what = document.getElementById("what");
  if (!hole || !what) return;
  chosen = [...chosen, hole.dataset.hole];
  mark();
  const name = what.value.trim().split(/\s+/)[0] || document.querySelector("#missing option")?.value.trim() || "J";
  what.value = `${name} ${chosen.join(" ")}`;
  if (chosen.length === 2) {
    chosen = [];
    what.focus();
  }
});
