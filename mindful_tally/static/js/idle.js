// A glass that nobody touches for too long asks again who is there. Every page of this browser counts; what is
// weighed without a touch counts as one. While the server is away nothing locks: there is nobody to ask.
const LAST = "touched";
const MINUTE = 60_000;
const locks = Number(document.body.dataset.locks) * MINUTE;
const form = document.querySelector("form[data-away]");
let told = Date.now();

function touched() {
  const now = Date.now();
  localStorage.setItem(LAST, now);
  if (now - told < MINUTE) return;
  told = now;
  send(form.dataset.touched).catch(() => {});
}

function send(url) {
  return fetch(url, { method: "POST", body: new FormData(form), redirect: "manual", keepalive: true });
}

async function look() {
  const idle = Date.now() - Math.max(Number(localStorage.getItem(LAST)) || 0, told);
  if (idle < locks) return;
  try {
    await send(form.action);
  } catch {
    return;
  }
  location.assign(form.dataset.away);
}

for (const kind of ["pointerdown", "keydown", "touched"]) document.addEventListener(kind, touched, { passive: true });
localStorage.setItem(LAST, told);
setInterval(look, MINUTE / 4);
