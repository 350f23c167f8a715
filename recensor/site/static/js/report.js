// Notes and conclusion: what is typed is kept here until the server has it, and sentences are put in by a press.
const PREFIX = "recensor.draft.";
const drafts = [...document.querySelectorAll("form[data-draft]")].map((form) => ({
  form,
  field: form.querySelector("textarea"),
  slot: PREFIX + form.dataset.draft,
}));

// A page that is being left forgets nothing: the next one may have been written before the server had the text.
let leaving = false;
addEventListener("beforeunload", () => {
  leaving = true;
});

const changed = (field) => field.dispatchEvent(new Event("input", { bubbles: true }));

for (const { form, field, slot } of drafts) {
  field.addEventListener("input", () => {
    leaving = false; // a download only looked like leaving
    localStorage.setItem(slot, field.value);
  });
  form.addEventListener("htmx:afterRequest", (event) => {
    if (!leaving && event.detail.successful && event.detail.requestConfig.parameters.text === field.value) {
      localStorage.removeItem(slot);
    }
  });
}

// Once the page listens: what was typed when there was no connection is there again, and is sent.
addEventListener("load", () => {
  for (const { field, slot } of drafts) {
    const draft = localStorage.getItem(slot);
    if (draft === field.value) localStorage.removeItem(slot);
    else if (draft !== null) {
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
