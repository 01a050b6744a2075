// The hands at the block: which pile, when a weight may be taken, and the keys.
(() => {
  const form = document.getElementById("take");
  if (!form) return;
  const take = document.getElementById("take-weight");
  const stepper = form.querySelector(".portions");
  const count = form.querySelector("[name=portions]");
  const show = (name, text) => (form.querySelector(`[data-show=${name}]`).textContent = text);
  const chosen = () => form.querySelector("[name=output]:checked");
  let reading = { weight: null, state: "no scale" };
  // The reading last taken, kept over a reload: the glass re-arms when the load has changed.
  const TAKEN = "taken";
  let taken = JSON.parse(sessionStorage.getItem(TAKEN));
  const newKey = () =>
    crypto.randomUUID?.() ||
    "10000000-1000-4000-8000-100000000000".replace(/[018]/g, (c) =>
      (+c ^ (crypto.getRandomValues(new Uint8Array(1))[0] & (15 >> (+c / 4)))).toString(16));

  function whyNot() {
    if (reading.state !== "steady") return reading.state;
    if (!(Number(reading.weight) > 0)) return "nothing on the scale";
    return taken ? "taken, change the load" : "";
  }

  function refresh() {
    const pile = chosen();
    const counted = pile?.dataset.counted !== undefined;
    stepper.hidden = !counted;
    show("pile", pile?.dataset.name || "");
    show("portion", counted ? `portion ${pile.dataset.counted}` : "");
    for (const strip of document.querySelectorAll(".strip")) strip.toggleAttribute("hidden", strip.dataset.strip !== pile?.value);
    const why = whyNot();
    take.disabled = why !== "" || !pile;
    show("why", why);
  }

  function takeWeight() {
    if (whyNot() || !chosen()) return;
    const { weight, unit, division } = reading;
    taken = reading;
    sessionStorage.setItem(TAKEN, JSON.stringify(reading));
    tally.send(
      { key: newKey(), output: chosen().value, value: weight, unit, division, portions: stepper.hidden ? "" : count.value },
      `${weight} ${unit} ${chosen().dataset.name}`,
    );
    count.value = "1";
    refresh();
  }

  form.addEventListener("submit", (event) => {
    event.preventDefault();
    const value = form.elements.value.value.trim();
    const unit = form.elements.unit.value;
    if (!chosen()) return;
    if (!value) return form.elements.value.focus();
    tally.send(
      { key: newKey(), output: chosen().value, value, unit, typed: "1", portions: stepper.hidden ? "" : count.value },
      `${value} ${unit} ${chosen().dataset.name}`,
    );
    form.elements.value.value = "";
    count.value = "1";
  });

  document.addEventListener("submit", (event) => {
    const url = event.target.dataset.recall;
    if (!url) return;
    event.preventDefault();
    tally.recall(url, { weighing: event.target.elements.weighing.value, output: chosen()?.value || "" });
  });

  document.addEventListener("scale:reading", (event) => {
    reading = event.detail;
    const moved = taken && (reading.weight === null || reading.unit !== taken.unit ||
      Math.abs(Number(reading.weight) - Number(taken.weight)) > Number(taken.division) * 1.0001);
    if (moved) {
      taken = null;
      sessionStorage.removeItem(TAKEN);
    }
    refresh();
  });
  document.addEventListener("bench:changed", refresh);
  form.addEventListener("change", refresh);
  take.addEventListener("click", takeWeight);
  stepper.addEventListener("click", (event) => step(Number(event.target.dataset.step || 0)));
  const step = (by) => by && (count.value = String(Math.min(Math.max(Number(count.value) + by || 1, 1), 200)));

  const keys = {
    Enter: takeWeight,
    Backspace: () => document.getElementById("take-back")?.form.requestSubmit(),
    t: () => form.querySelector("[data-order=tare]").click(),
    z: () => form.querySelector("[data-order=zero]").click(),
    u: () => form.querySelector("[data-order=unit]").click(),
    "+": () => !stepper.hidden && step(1),
    "-": () => !stepper.hidden && step(-1),
    "?": () => {
      const help = document.getElementById("keys");
      help.open ? help.close() : help.show();
    },
  };
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
    const at = event.target;
    if (at === count && event.key === "Enter") {
      event.preventDefault();
      return takeWeight();
    }
    if (at.matches("input:not([type=radio]), select, textarea")) return;
    if (event.key === "Enter" && at.closest("a, button, summary") && at !== take) return;
    const pile = document.querySelector(`.pile[data-key="${CSS.escape(event.key)}"] input`);
    const action = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key];
    if (!pile && !action) return;
    event.preventDefault();
    if (pile) {
      pile.checked = true;
      pile.focus();
      refresh();
    } else action();
  });
  refresh();
})();
