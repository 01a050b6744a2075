// Keeps two tablets on one test in step: asks whether there is more than this glass has seen.
// Also opens the page without the server, once it was here (service worker).
import { chosen } from "./bench.js";
import * as glass from "./glass.js";

const form = document.getElementById("take");
const EVERY = 700;
let isAsking = false;

async function ask() {
  if (isAsking || document.hidden) return;
  isAsking = true;
  const seen = document.getElementById("seen").value;
  const words = new URLSearchParams({ seen, holder: document.getElementById("holder").dataset.holder, output: chosen()?.value || "" });
  try {
    const answer = await fetch(`${form.dataset.stands}?${words}`, { headers: { "Tally-Glass": glass.width() }, signal: AbortSignal.timeout(4000) });
    if (answer.status === 200) {
      const html = await answer.text();
      const now = html.match(/id="seen"[^>]*value="(\d+)"/)?.[1];
      // A weighing of our own may have been answered meanwhile: never go back.
      if (now && Number(now) >= Number(document.getElementById("seen").value)) glass.swap(html);
    } else if (answer.status === 410) glass.tell("This test was finished. Weighings sent from here are refused and kept.", true);
    else if (answer.status === 401) glass.tell("Nobody is at the block: step up. What is kept here is sent then.", true);
  } catch {
    // The server is away; the queue says so when there is something to send.
  }
  isAsking = false;
}
setInterval(ask, EVERY);
setInterval(() => document.querySelector("#clock details").open || document.body.dispatchEvent(new Event("bench:minute")), 30_000);
document.addEventListener("visibilitychange", ask);
navigator.serviceWorker?.register(form.dataset.worker, { scope: "/" }).catch(() => {});
