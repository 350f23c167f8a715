// A photo is made smaller before it is sent, and sent as soon as it is chosen.
const LONGEST = 1600;

async function smaller(file) {
  const picture = await createImageBitmap(file);
  const share = Math.min(1, LONGEST / Math.max(picture.width, picture.height));
  const canvas = Object.assign(document.createElement("canvas"), {
    width: Math.round(picture.width * share),
    height: Math.round(picture.height * share),
  });
  canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
  const blob = await new Promise((done) => canvas.toBlob(done, "image/jpeg", 0.85));
  return new File([blob], "photo.jpg", { type: "image/jpeg" });
}

document.addEventListener("change", async (event) => {
  const field = event.target;
  if (!field.matches?.("[data-photo]") || !field.files[0]) return;
  try {
    const carrier = new DataTransfer();
    carrier.items.add(await smaller(field.files[0]));
    field.files = carrier.files;
  } catch {
    // No picture that this browser reads: the server says so.
  }
  field.form.requestSubmit();
});
