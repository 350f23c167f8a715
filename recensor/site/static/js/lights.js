// What a row is about lights up in the drawing.
function light(event, on) {
  const lights = event.target.closest?.("[data-lights]")?.dataset.lights ?? "";
  for (const id of lights.split(" ").filter(Boolean)) {
    document.getElementById(id)?.classList.toggle("symbol-hover", on);
  }
}

for (const name of ["mouseover", "focusin"]) document.addEventListener(name, (event) => light(event, true));
for (const name of ["mouseout", "focusout"]) document.addEventListener(name, (event) => light(event, false));
