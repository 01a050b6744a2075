// Listens to the scale bridge and shows the reading. Other scripts hear "scale:reading".
(() => {
  const face = document.querySelector("[data-scale-url]");
  if (!face) return;
  const url = face.dataset.scaleUrl;
  const show = (name) => face.querySelector(`[data-show=${name}]`);
  const said = document.getElementById("said");
  const SILENT_AFTER = 1500;
  const NO_SCALE = { weight: null, unit: "", division: "", state: "no scale" };
  let heard = 0;

  function tell(reading) {
    const text = { overload: "over", under: "under" }[reading.state] || "–";
    set("weight", reading.weight ?? text);
    set("unit", reading.unit);
    set("division", reading.division && `by ${reading.division}`);
    set("state", reading.tare && Number(reading.tare) ? `${reading.state} · tare ${reading.tare}` : reading.state);
    show("state").dataset.is = reading.state;
    document.dispatchEvent(new CustomEvent("scale:reading", { detail: reading }));
  }

  function set(name, text) {
    const place = show(name);
    if (place.textContent !== text) place.textContent = text;
  }

  if (url) {
    const stream = new EventSource(`${url}/readings`);
    stream.onmessage = (event) => {
      heard = Date.now();
      tell(JSON.parse(event.data));
    };
    stream.onerror = () => tell(NO_SCALE);
  }
  tell(NO_SCALE);
  setInterval(() => {
    if (heard && Date.now() - heard > SILENT_AFTER) {
      heard = 0;
      tell(NO_SCALE);
    }
  }, 500);

  async function order(name) {
    try {
      const answer = await fetch(`${url}/${name}`, { method: "POST" });
      said.textContent = answer.ok ? "" : await answer.text();
    } catch {
      said.textContent = `${name}: the scale does not answer. Check that it is on.`;
    }
    said.classList.toggle("is-trouble", said.textContent !== "");
  }
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-order]");
    if (button) order(button.dataset.order);
  });
})();
