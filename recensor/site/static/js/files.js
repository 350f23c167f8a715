// A file that the server would not take is refused at its place, before it is sent.
const limit = (field) => Number(field.dataset.largest);
const megabytes = (bytes) => `${(bytes / 1e6).toFixed(1)} MB`;

function check(field) {
  const tooLarge = field.files[0]?.size > limit(field);
  const place = field.closest(".field");
  place.querySelector("[data-too-large]")?.remove();
  field.toggleAttribute("aria-invalid", tooLarge);
  if (tooLarge) {
    const message = Object.assign(document.createElement("p"), {
      className: "field-error",
      textContent: `${field.files[0].name} has ${megabytes(field.files[0].size)}; at most ${megabytes(limit(field))} are taken.`,
    });
    message.dataset.tooLarge = "";
    message.setAttribute("role", "alert");
    place.append(message);
  }
  return !tooLarge;
}

for (const field of document.querySelectorAll("input[type=file][data-largest]")) {
  field.addEventListener("change", () => check(field));
  field.form.addEventListener("submit", (event) => {
    if (!check(field)) event.preventDefault();
  });
}
