// In the drawing red and black can be put anywhere: a part is what the stage reads of it, two nodes are what lies
// between them, and one node chosen twice is its potential.
const bench = () => document.getElementById("bench");
let red = null;

function read(place) {
  red = null;
  const { quantity, setup } = bench().dataset;
  const asked = new URLSearchParams({ read: place, quantity, setup });
  htmx.ajax("GET", `${location.pathname}?${asked}`, { source: bench(), target: "#bench", swap: "outerHTML" });
}

function choose(node) {
  for (const marked of document.querySelectorAll(".node-red")) marked.classList.remove("node-red");
  if (red === node.dataset.node) read(red);
  else if (red !== null) read(`${red} ${node.dataset.node}`);
  else {
    red = node.dataset.node;
    node.classList.add("node-red");
    const note = document.querySelector("[data-probing-note]");
    if (note) note.textContent = `Red at ${red}. Now choose where black goes, or ${red} once more for its potential.`;
  }
}

document.addEventListener("click", (event) => {
  if (!bench()?.dataset.quantity) return;
  const node = event.target.closest(".sheet-drawing .node[data-node]");
  const part = event.target.closest(".sheet-drawing .symbol[data-name]");
  if (node) choose(node);
  else if (part) read(part.dataset.name);
});
