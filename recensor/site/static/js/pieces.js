// The page says which pieces it holds, rows of the table and the drawing, by ids that say what is in them; of those the
// answer has the places only, and htmx puts the page's own there. It says too which pane is open.
const pieces = () => [...document.querySelectorAll("[data-held], tr.row-point")];
// What is sent along is bounded, as a server's headers are; of more the answer brings the rest anew.
const MOST = 200;

document.addEventListener("htmx:configRequest", (event) => {
  event.detail.headers["X-Bench-Holds"] = pieces().slice(0, MOST).map(({ id }) => id).join(" ");
  event.detail.headers["X-Bench-Pane"] = document.getElementById("pane")?.dataset.pane ?? "";
});

// Should another answer have changed a piece meanwhile, its place stays empty, and the page is asked for anew.
document.addEventListener("htmx:afterSwap", () => {
  if (!document.querySelector("#bench [hx-preserve]:empty")) return;
  for (const piece of pieces()) piece.removeAttribute("id");
  htmx.ajax("GET", `${location.pathname}${location.search}`, { target: "#sheet", select: "#sheet", swap: "outerHTML" });
});

// A late answer never overwrites a newer one: what was asked for before what is shown now is not shown any more.
let asked = 0;
let shown = 0;

const isWhole = (config) => config.target?.id === "bench";

document.addEventListener("htmx:beforeRequest", (event) => {
  const config = event.detail.requestConfig;
  if (isWhole(event.detail)) config.order = ++asked;
});
document.addEventListener("htmx:beforeSwap", (event) => {
  const { order } = event.detail.requestConfig;
  if (!isWhole(event.detail) || !order || !event.detail.shouldSwap) return;
  if (order < shown) event.detail.shouldSwap = false;
  else shown = order;
});
