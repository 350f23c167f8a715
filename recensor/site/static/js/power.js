// Power is switched, or everything put back, by Enter on the empty field or by a key of its own; not by the second of
// two Enters in rhythm.
import { isOfRhythm } from "./question.js";

document.addEventListener("keydown", (event) => {
  const pressed = document.querySelector("[data-switch]");
  const isKey = event.altKey && event.key === "p";
  const isEmpty = event.target.id === "reading-text" && event.target.value.trim() === "";
  if (isKey) (pressed ?? document.querySelector("[data-power]"))?.click();
  else if (pressed && event.key === "Enter" && isEmpty) {
    if (!isOfRhythm(event)) pressed.click();
  } else return;
  event.preventDefault();
}, true);
