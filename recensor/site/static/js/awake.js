// While something is left to read the screen stays awake, where the browser has a lock for that.
let lock = null;

async function hold() {
  const wanted = document.visibilityState === "visible" && Boolean(document.querySelector("#bench[data-open]"));
  if (wanted === Boolean(lock) || !("wakeLock" in navigator)) return;
  if (!wanted) {
    const held = lock;
    lock = null;
    await held.release();
    return;
  }
  try {
    lock = await navigator.wakeLock.request("screen");
    lock.addEventListener("release", () => { lock = null; });
  } catch {
    lock = null; // refused, as by a battery that is low
  }
}

document.addEventListener("visibilitychange", hold);
document.addEventListener("htmx:afterSettle", hold);
hold();
