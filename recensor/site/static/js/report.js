// Notes and conclusion: what is typed is kept here until the server has it, and sentences are put in by a press.
const PREFIX = "recensor.draft.";
const drafts = [...document.querySelectorAll("form[data-draft]")].map((form) => ({
  form,
  field: form.querySelector("textarea"),
  slot: PREFIX + form.dataset.draft,
}));

const changed = (field) => field.dispatchEvent(new Event("input", { bubbles: true }));

for (const { form, field, slot } of drafts) {
  field.addEventListener("input", () => localStorage.setItem(slot, field.value));
  form.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.successful && event.detail.requestConfig.parameters.text === field.value) {
      localStorage.removeItem(slot);
    }
  });
}

// Once the page listens: what was typed when there was no connection is there again, and is sent.
addEventListener("load", () => {
  for (const { field, slot } of drafts) {
    const draft = localStorage.getItem(slot);
    if (draft !== null && draft !== field.value) {
      field.value = draft;
      changed(field);
    }
  }
});

addEventListener("online", () => {
  for (const { form, slot } of drafts) {
    if (localStorage.getItem(slot) !== null) form.requestSubmit();
  }
});

for (const button of document.querySelectorAll("[data-starter]")) {
  button.addEventListener("click", () => {
    const field = document.getElementById("text-conclusion");
    const gap = field.value && !field.value.endsWith("\n") ? "\n\n" : "";
    field.value += gap + button.dataset.starter;
    changed(field);
    field.focus();
  });
}
