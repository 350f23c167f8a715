// Rows that a likely cause explains say so in place of their verdict, while the page is the one that asked.
document.addEventListener("htmx:afterSettle", () => {
  const bench = document.getElementById("bench");
  for (const told of document.querySelectorAll(`[data-explains-at="${CSS.escape(bench?.dataset.asOf ?? "")}"]`)) {
    const address = CSS.escape(told.dataset.explains);
    for (const verdict of bench.querySelectorAll(`[data-stands="${address}"]`)) verdict.innerHTML = told.innerHTML;
  }
});
