// What came of the last thing done, in the page's one live region, and by the browser's own voice where its person
// wants that. The region stays while the bench is replaced, or it would not be read out.
let last = "";

function say(text) {
  document.getElementById("said").textContent = text;
  if (!document.querySelector("[data-speaks]") || !("speechSynthesis" in window)) return;
  speechSynthesis.cancel();
  speechSynthesis.speak(new SpeechSynthesisUtterance(text));
}

document.addEventListener("htmx:afterSettle", (event) => {
  const bench = document.getElementById("bench");
  const cause = event.target.closest?.("[data-causes]")?.querySelector("[data-cause]");
  if (cause) say(cause.textContent.replace(/\s+/g, " ").trim());
  else if (bench && bench.dataset.asOf !== last) {
    last = bench.dataset.asOf;
    if (bench.dataset.say) say(bench.dataset.say);
  }
});
