// The hands at the block: which pile, and when a weight may be taken.
window.bench = (() => {
  const form = document.getElementById("take");
  if (!form) return {};
  const take = document.getElementById("take-weight");
  const stepper = form.querySelector(".portions");
  const count = form.querySelector("[name=portions]");
  const figure = form.querySelector("[data-show=weight]");
  const places = Object.fromEntries(["pile", "portion", "why"].map((name) => [name, form.querySelector(`[data-show=${name}]`)]));
  const show = (name, text) => places[name].textContent !== text && (places[name].textContent = text);
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
    if (form.inert) return "wiping";
    const other = document.getElementById("holder").dataset.other;
    if (other) return other;
    if (reading.state !== "steady") return reading.state;
    if (taken) return "taken, change the load";
    const found = amount.of(reading, chosen());
    if (found.why) return found.why;
    const least = amount.isDifference(chosen()) ? Number(reading.division) * 1.0001 : 0;
    return Number(found.value) > least ? "" : amount.isDifference(chosen()) ? "nothing added" : "nothing on the scale";
  }

  function refresh() {
    const pile = chosen();
    const counted = pile?.dataset.counted !== undefined;
    const found = reading.weight === null ? {} : amount.of(reading, pile);
    if (stepper.hidden === counted) stepper.hidden = !counted;
    show("pile", pile?.dataset.name || "");
    show("portion", found.words || (counted ? `portion ${pile.dataset.counted}` : ""));
    const figureText = found.value ?? figure.textContent;
    if (figure.textContent !== figureText) figure.textContent = figureText;
    for (const strip of document.querySelectorAll(".strip-of")) {
      const hidden = strip.dataset.strip !== pile?.value;
      if (strip.hidden !== hidden) strip.hidden = hidden;
    }
    const why = whyNot();
    const disabled = why !== "" || !pile;
    if (take.disabled !== disabled) take.disabled = disabled;
    show("why", why);
  }

  function takeWeight() {
    if (whyNot() || !chosen()) return false;
    const { weight: shown, unit, division, scale, run, sequence, at, state, tare, signature = "" } = reading;
    const { value, before = "", tub_before = "" } = amount.of(reading, chosen());
    taken = reading;
    sessionStorage.setItem(TAKEN, JSON.stringify(reading));
    amount.taken(reading, chosen());
    const proof = { shown, scale, run, sequence, at, state, tare, signature, before, tub_before };
    tally.send(
      { key: newKey(), output: chosen().value, value, unit, division, portions: stepper.hidden ? "" : count.value, ...proof },
      `${value} ${unit} ${chosen().dataset.name}`,
    );
    count.value = "1";
    refresh();
    return true;
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
  const step = (by) => by && !stepper.hidden && (count.value = String(Math.min(Math.max(Number(count.value) + by || 1, 1), 200)));
  stepper.addEventListener("click", (event) => step(Number(event.target.dataset.step || 0)));
  refresh();
  return { chosen, whyNot, takeWeight, refresh, step, newKey };
})();
