// The board under the pointer: its nets light up, two holes chosen one after the other fill the form, a lead is
// dragged to another hole, and what was ticked off while building stays ticked.
const holes = () => [...document.querySelectorAll(".hole")];
const what = () => document.getElementById("what");
let chosen = [];
let dragged = null;

document.addEventListener("mouseover", (event) => {
  const net = event.target.closest?.(".hole")?.dataset.net;
  for (const hole of holes()) hole.classList.toggle("hole-same", net !== undefined && hole.dataset.net === net);
});

function mark() {
  for (const hole of holes()) hole.classList.toggle("hole-chosen", chosen.includes(hole.dataset.hole));
}

function put(text) {
  what().value = text;
  document.querySelector('button[name="act"][value="put"]').click();
}

document.addEventListener("pointerdown", (event) => {
  const hole = event.target.closest(".hole[data-lead]");
  if (hole && what()) dragged = hole;
});

document.addEventListener("pointerup", (event) => {
  const from = dragged;
  dragged = null;
  const to = document.elementFromPoint(event.clientX, event.clientY)?.closest(".hole");
  if (!from || !to || to === from) return;
  const [name, lead, other] = from.dataset.lead.split(" ");
  put(lead === "0" ? `${name} ${to.dataset.hole} ${other}` : `${name} ${other} ${to.dataset.hole}`);
});

// Where nothing is put in, two holes are where red and black go: their nodes are read next at the bench.
let red = null;
function probe(hole) {
  const { bench, setup } = document.getElementById("board").dataset;
  if (!hole.dataset.node) return;
  if (red === null) {
    red = hole.dataset.node;
    chosen = [hole.dataset.hole];
    mark();
    return;
  }
  const read = red === hole.dataset.node ? red : `${red} ${hole.dataset.node}`;
  location.assign(`${bench}?${new URLSearchParams({ read, setup, quantity: "voltage" })}`);
}

document.addEventListener("click", (event) => {
  const hole = event.target.closest(".hole");
  if (hole && !what()) probe(hole);
  if (!hole || !what() || hole.dataset.lead) return;
  chosen = [...chosen, hole.dataset.hole];
  mark();
  const missing = document.querySelector("#missing option")?.value.trim();
  const name = what().value.trim().split(/\s+/)[0] || missing || "J";
  what().value = `${name} ${chosen.join(" ")}`;
  if (chosen.length === 2) {
    chosen = [];
    what().focus();
  }
});

// Drawn larger, the board shows the region in use.
document.addEventListener("change", (event) => {
  if (!event.target.closest(".board-zoom") || !event.target.checked) return;
  document.querySelector(".hole[data-lead]")?.scrollIntoView({ block: "center", inline: "center" });
});

// Ticks are this browser's own: kept by page and by what they stand beside.
const slot = () => `recensor.ticks.${location.pathname}`;
function ticks() {
  try {
    return new Set(JSON.parse(localStorage.getItem(slot())) ?? []);
  } catch {
    return new Set(); // nothing that this page has written
  }
}
const words = (box) => box.closest("label").textContent.trim();

function showTicks() {
  for (const box of document.querySelectorAll(".to-build input")) box.checked = ticks().has(words(box));
}

document.addEventListener("change", (event) => {
  if (!event.target.closest(".to-build")) return;
  const kept = ticks();
  kept[event.target.checked ? "add" : "delete"](words(event.target));
  localStorage.setItem(slot(), JSON.stringify([...kept]));
});
document.addEventListener("htmx:afterSettle", showTicks);
showTicks();
