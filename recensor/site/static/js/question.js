// A question about the entry that was just recorded. People type in rhythm with their eyes on the board: a doubled
// Enter, a repeating key or the next number must never answer it. What is typed meanwhile waits in the field.
const RHYTHM = 500; // ms in which a key is taken for one of the entry's own
let asked = 0;

const question = () => document.querySelector("[data-question]");
export const isOfRhythm = (event) => event.repeat || performance.now() - asked < RHYTHM;

document.addEventListener("htmx:afterSettle", () => {
  if (question() || document.querySelector("[data-switch]")) asked = performance.now();
});

document.addEventListener("keydown", (event) => {
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

// What was typed while the question stood goes along to the point that comes next.
document.addEventListener("htmx:beforeSwap", (event) => {
  const typed = document.getElementById("reading-text")?.value;
  if (!typed || !event.detail.requestConfig.elt?.matches?.("[data-question]")) return;
  document.addEventListener("htmx:afterSettle", () => {
    const field = document.getElementById("reading-text");
    if (field && !field.value) field.value = typed;
  }, { once: true });
});
