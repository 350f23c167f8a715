// Light or dark: what was chosen, else what the system says. Runs before the page is drawn; and says that scripts run.
document.documentElement.classList.add("scripts");
const kept = localStorage.getItem("recensor.theme");
const dark = matchMedia("(prefers-color-scheme: dark)").matches;
document.documentElement.dataset.bsTheme = kept ?? (dark ? "dark" : "light");

document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-theme-toggle]")) return;
  const next = document.documentElement.dataset.bsTheme === "dark" ? "light" : "dark";
  document.documentElement.dataset.bsTheme = next;
  localStorage.setItem("recensor.theme", next);
});
