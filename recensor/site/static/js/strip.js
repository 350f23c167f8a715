// On a narrow screen the drawing is a strip: as large as red and black, or the part, fit into it, and turned there.
const NARROW = matchMedia("(width <= 900px)");
const ROOM = 24; // px for the dots and names of the probes
const SMALLEST = 0.6; // of the drawing's own size; below it no value can be read
const LARGEST = 1.1;

function outerBox(elements) {
  const boxes = elements.map((element) => element.getBoundingClientRect());
  const least = (side) => Math.min(...boxes.map((box) => box[side]));
  const most = (side) => Math.max(...boxes.map((box) => box[side]));
  return { left: least("left"), right: most("right"), top: least("top"), bottom: most("bottom") };
}

function turn() {
  const strip = document.querySelector(".sheet-drawing");
  const drawing = strip?.querySelector("svg");
  if (!drawing) return;
  drawing.style.width = "";
  if (!NARROW.matches) return;
  const probes = [...drawing.querySelectorAll(".probe-point")];
  const sought = probes.length ? probes : [...drawing.querySelectorAll(".symbol-lit")];
  const own = drawing.viewBox.baseVal.width;
  drawing.style.width = `${own}px`;
  if (!sought.length) return;
  const box = outerBox(sought);
  const fits = Math.min((strip.clientHeight - ROOM) / (box.bottom - box.top), (strip.clientWidth - ROOM) / (box.right - box.left));
  drawing.style.width = `${own * Math.min(LARGEST, Math.max(SMALLEST, fits))}px`;
  const here = outerBox(sought);
  const outer = strip.getBoundingClientRect();
  strip.scrollLeft += (here.left + here.right - outer.left - outer.right) / 2;
  strip.scrollTop += (here.top + here.bottom - outer.top - outer.bottom) / 2;
}

document.addEventListener("htmx:afterSettle", turn);
NARROW.addEventListener("change", turn);
turn();
