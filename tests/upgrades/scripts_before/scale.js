// Listens to the scale bridge and shows the reading. Other scripts hear "scale:reading".
// The line is made again by itself, whatever ended it.

const face = document.querySelector("[data-scale-url]");
const url = face.dataset.scaleUrl;
const places = Object.fromEntries([...face.querySelectorAll("[data-show]")].map((each) => [each.dataset.show, each]));
const said = document.getElementById("said");
const SILENT_AFTER = 1500, AGAIN_AFTER = 500;
const TROUBLE = {
  stale: "The display stands still. What was taken is safe; look at the scale, or type the weight.",
  "no scale": "The scale is not heard. What was taken is safe; it comes back by itself, or type the weight.",
  off: "The scale is off: switch it on, or type the weight.",
  overload: "Too much on the scale: weigh it in parts.",
  under: "Below zero: empty the scale, then press Zero.",
};
const NO_SCALE = { weight: null, unit: "", division: "", state: "no scale" };
let heard = 0;

function tell(reading) {
  const text = { overload: "over", under: "under" }[reading.state] || "–";
  set("weight", reading.weight ?? text);
  set("unit", reading.unit);
  set("division", reading.division && `by ${reading.division}`);
  set("state", reading.tare && Number(reading.tare) ? `${reading.state} · tare ${reading.tare}` : reading.state);
  if (places.state.dataset.is !== reading.state) places.state.dataset.is = reading.state;
  if (places.trouble) set("trouble", TROUBLE[reading.state] || "");
  document.dispatchEvent(new CustomEvent("scale:reading", { detail: reading }));
}

function set(name, text) {
  if (places[name].textContent !== text) places[name].textContent = text;
}

function listen() {
  const stream = new EventSource(`${url}/readings`);
  stream.onmessage = (event) => {
    heard = Date.now();
    tell(JSON.parse(event.data));
  };
  stream.onerror = () => {
    tell(NO_SCALE);
    if (stream.readyState === EventSource.CLOSED) setTimeout(listen, AGAIN_AFTER);
  };
}
tell(NO_SCALE);
if (url) listen();
setInterval(() => {
  if (heard && Date.now() - heard > SILENT_AFTER) {
    heard = 0;
    tell(NO_SCALE);
  }
}, 500);

async function order(name, body) {
  try {
    const answer = await fetch(`${url}/${name}`, { method: "POST", body });
    said.textContent = answer.ok ? "" : await answer.text();
  } catch {
    said.textContent = `${name}: the scale does not answer. Check that it is on.`;
  }
  said.classList.toggle("is-trouble", said.textContent !== "");
}
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-order]");
  if (!button) return;
  const { value, unit } = button.dataset;
  order(button.dataset.order, value && JSON.stringify({ value, unit }));
});
