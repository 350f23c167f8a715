// Verdict and next point said aloud by the browser's own voice, where its person wants that.
document.addEventListener("htmx:afterSettle", () => {
  const said = document.querySelector("[data-speaks] [data-say]")?.dataset.say;
  if (!said || !("speechSynthesis" in window)) return;
  speechSynthesis.cancel();
  speechSynthesis.speak(new SpeechSynthesisUtterance(said));
});
