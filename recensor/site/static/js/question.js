// Questions about entries. People type in rhythm with their eyes on the board: the work goes on, and neither a doubled
// Enter nor a repeating key nor the next number answers one; a key of its own does, or its button.
const RHYTHM = 500; // ms in which a key is taken for one of the entry's own
let asked = 0;
let known = "";

const question = () => document.querySelector("[data-question]");
export const isOfRhythm = (event) => event.repeat || performance.now() - asked < RHYTHM;

document.addEventListener("htmx:afterSettle", () => {
  const newest = question()?.dataset.question ?? "";
  const isNew = newest !== known;
  known = newest;
  if ((newest && isNew) || document.querySelector("[data-switch], [data-write-report]")) asked = performance.now();
});

document.addEventListener("keydown", (event) => {
  // Nor does the second of two Enters leave the bench for the report.
  if (event.key === "Enter" && event.target.closest("[data-write-report]") && isOfRhythm(event)) event.preventDefault();
  if (!question()) return;
  const isAnswer = event.altKey && /^Digit[1-9]$/.test(event.code);
  const isOnButton = event.key === "Enter" && event.target.closest("[data-question]");
  if (!isAnswer && !isOnButton) return;
  if (isOfRhythm(event)) event.preventDefault();
  else if (isAnswer) {
    event.preventDefault();
    question().querySelectorAll("[data-answer]")[Number(event.code.slice(5)) - 1]?.click();
  }
}, true);

// What was typed while a question stood goes along to the point that comes next; what was typed while power was
// switched, or something else was done at the same measurement, stays.
function typedNow({ requestConfig, target }) {
  const entry = document.getElementById("entry");
  const text = entry?.elements.namedItem("text").value;
  const isSent = requestConfig.elt === entry || requestConfig.elt === document.body;
  if (!text || isSent || target.id !== "bench" || document.querySelector("[data-not-saved]:not([hidden])")) return undefined;
  const stays = !requestConfig.elt?.matches?.("[data-question]");
  return { text, at: stays ? entry.elements.namedItem("measurement").value : undefined };
}

document.addEventListener("htmx:beforeSwap", (event) => {
  const typed = typedNow(event.detail);
  if (!typed) return;
  document.addEventListener("htmx:afterSettle", () => {
    const fields = document.getElementById("entry")?.elements;
    const isThere = typed.at === undefined || typed.at === fields?.namedItem("measurement").value;
    if (fields && isThere && !fields.namedItem("text").value) fields.namedItem("text").value = typed.text;
  }, { once: true });
});
