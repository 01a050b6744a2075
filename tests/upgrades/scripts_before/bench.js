// The hands at the block: which pile, and when a weight may be taken.
import { amount, isDifference, wasTaken } from "./difference.js";
import { newKey } from "./new-key.js";
import * as press from "./press.js";
import { recall, send } from "./queue.js";

const form = document.getElementById("take");
const take = document.getElementById("take-weight");
const stepper = form.querySelector(".portions");
const count = form.querySelector("[name=portions]");
const figure = form.querySelector("[data-show=weight]");
const places = Object.fromEntries(
  ["pile", "portion", "why"].map((name) => [name, form.querySelector(`[data-show=${name}]`)]),
);
const show = (name, text) => places[name].textContent !== text && (places[name].textContent = text);
let reading = { weight: null, state: "no scale" };
// The reading last taken, kept over a reload: the glass re-arms when the load has changed.
const TAKEN = "taken";
let taken = JSON.parse(sessionStorage.getItem(TAKEN));

export const chosen = () => form.querySelector("[name=output]:checked");

export function whyNot() {
  const pile = chosen();
  return press.whyNot({
    isWiping: form.inert,
    other: document.getElementById("holder").dataset.other,
    reading,
    taken,
    found: reading.weight === null ? {} : amount(reading, pile),
    isDifference: isDifference(pile),
  });
}

export function refresh() {
  const pile = chosen();
  const counted = pile?.dataset.counted !== undefined;
  const found = reading.weight === null ? {} : amount(reading, pile);
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

export function takeWeight() {
  const pile = chosen();
  if (whyNot() || !pile) return false;
  const { weight: shown, unit, division, scale, run, sequence, at, state, tare, signature = "" } = reading;
  const { value, before = "", tub_before = "" } = amount(reading, pile);
  taken = reading;
  sessionStorage.setItem(TAKEN, JSON.stringify(reading));
  wasTaken(reading, pile);
  const tub = pile.dataset.tubId || "";
  const proof = { shown, scale, run, sequence, at, state, tare, signature, before, tub_before, tub };
  send(
    { key: newKey(), output: pile.value, value, unit, division, portions: stepper.hidden ? "" : count.value, ...proof },
    `${value} ${unit} ${pile.dataset.name}`,
  );
  count.value = "1";
  refresh();
  return true;
}

export const step = (by) => {
  if (by && !stepper.hidden) count.value = String(Math.min(Math.max(Number(count.value) + by || 1, 1), 200));
};

form.addEventListener("submit", (event) => {
  event.preventDefault();
  const value = form.elements.value.value.trim();
  const unit = form.elements.unit.value;
  if (!chosen()) return;
  if (!value) return form.elements.value.focus();
  send(
    { key: newKey(), output: chosen().value, value, unit, typed: "1", portions: stepper.hidden ? "" : count.value,
      tub: chosen().dataset.tubId || "" },
    `${value} ${unit} ${chosen().dataset.name}`,
  );
  form.elements.value.value = "";
  count.value = "1";
});

document.addEventListener("submit", (event) => {
  const url = event.target.dataset.recall;
  if (!url) return;
  event.preventDefault();
  recall(url, { weighing: event.target.elements.weighing.value, output: chosen()?.value || "" });
});

document.addEventListener("scale:reading", (event) => {
  reading = event.detail;
  if (taken && press.hasMoved(reading, taken)) {
    taken = null;
    sessionStorage.removeItem(TAKEN);
  }
  refresh();
});
document.addEventListener("bench:changed", refresh);
form.addEventListener("change", refresh);
take.addEventListener("click", takeWeight);
stepper.addEventListener("click", (event) => step(Number(event.target.dataset.step || 0)));
refresh();
