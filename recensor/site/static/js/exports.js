// All runs chosen by one press; a large file sent in pieces, each again until it has arrived.
const all = document.querySelector("[data-all]");
const runs = () => document.querySelectorAll("input[name=runs]");
all?.addEventListener("change", () => {
  for (const box of runs()) box.checked = all.checked;
});

const TRIES = 5;
const pause = (tried) => new Promise((go) => setTimeout(go, 500 * 2 ** tried));

async function sent(address, fields) {
  for (let tried = 0; ; tried += 1) {
    const answer = await fetch(address, { method: "POST", body: fields }).catch(() => null);
    const said = answer && (await answer.json().catch(() => ({})));
    if (answer?.ok) return said;
    if (said?.message) throw new Error(said.message);
    if (tried === TRIES) throw new Error("The connection is gone. Try again; nothing was brought in.");
    await pause(tried);
  }
}

const withFields = (token, fields) => {
  const form = new FormData();
  for (const [name, value] of Object.entries({ csrfmiddlewaretoken: token, ...fields })) form.set(name, value);
  return form;
};

const form = document.querySelector("form[data-send]");
form?.addEventListener("submit", async (event) => {
  event.preventDefault();
  const file = form.querySelector("input[type=file]").files[0];
  const [button, bar, refused] = ["button", "progress", "[data-refused]"].map((one) => form.querySelector(one));
  const { csrfmiddlewaretoken: token, key } = Object.fromEntries(new FormData(form));
  button.disabled = true;
  refused.hidden = true;
  try {
    const begun = await sent(form.action, withFields(token, { key, name: file.name, size: file.size }));
    const there = (path) => new URL(`../${path}`, form.action);
    bar.hidden = false;
    for (let number = 0, at = 0; at < file.size; number += 1, at += Number(form.dataset.piece)) {
      const piece = file.slice(at, at + Number(form.dataset.piece));
      await sent(there(begun.piece), withFields(token, { number, piece }));
      bar.value = (at + piece.size) / file.size;
    }
    location.assign(there(begun.then));
  } catch (error) {
    Object.assign(refused, { textContent: error.message, hidden: false });
    form.elements.key.value = crypto.randomUUID();
  } finally {
    button.disabled = false;
  }
});
