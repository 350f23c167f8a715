// A caution that was read shrinks to one line, and stays so on this page's run until another one comes.
const slot = () => `recensor.understood.${location.pathname}`;
const understood = () => JSON.parse(sessionStorage.getItem(slot()) ?? "[]");
const words = (caution) => caution.textContent.trim();

function shrink() {
  const known = understood();
  for (const caution of document.querySelectorAll("[data-caution]")) {
    if (known.includes(words(caution))) caution.open = false;
  }
}

document.addEventListener("click", (event) => {
  const caution = event.target.closest("[data-understood]")?.closest("[data-caution]");
  if (!caution) return;
  sessionStorage.setItem(slot(), JSON.stringify([...understood(), words(caution)]));
  caution.open = false;
  document.getElementById("reading-text")?.focus();
});
document.addEventListener("htmx:afterSettle", shrink);
shrink();
