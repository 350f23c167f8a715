// A question about the entry that was just recorded. People type in rhythm with their eyes on the board: a doubled
// Enter, a repeating key or the next number must never answer it. What is typed meanwhile waits in the field.
const RHYTHM = 500; // ms in which a key is taken for one of the entry's own
let asked = 0;

const question = () => document.querySelector("[data-question]");
export const isOfRhythm = (event) => event.repeat || performance.now() - asked < RHYTHM;

document.addEventListener("htmx:afterSettle", () => {
  if (question() || document.querySelector("[data-switch], [data-write-report]")) asked = performance.now();
});

document.addEventListener("keydown", (event) => {
  // Nor does the second of two Enters leave the bench for the report.
  if (event.key === "Enter" && event.target.closest("[data-write-report]") && isOfRhythm(event)) event.preventDefault();
  if (!question()) return;
  const isAnswer = event.altKey && /^Digit[1-9]$/.test(event.code);
  const isEnter = event.key === "Enter" && event.target.closest("#entry, [data-question]");
  if (!isAnswer && !isEnter) return;
  const inEntry = event.target.closest("#entry");
  if (isOfRhythm(event)) event.preventDefault();
  else if (isAnswer) {
    event.preventDefault();
    question().querySelectorAll("[data-answer]")[Number(event.code.slice(5)) - 1]?.click();
  } else if (inEntry) {
    event.preventDefault(); // the question comes first; another Enter on its button answers it
    question().querySelector("[data-answer]").focus();
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
