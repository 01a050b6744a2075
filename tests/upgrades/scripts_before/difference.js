// By difference: the next weight is what was added since the last reading that was kept as base.
import { amountOf, tubAfter } from "./amounts.js";
import { tell } from "./glass.js";

const BASE = "difference";
const button = document.getElementById("difference");
let base = JSON.parse(sessionStorage.getItem(BASE));
let last = null;

function keep(reading) {
  base = reading;
  if (base) sessionStorage.setItem(BASE, JSON.stringify(base));
  else sessionStorage.removeItem(BASE);
  button.setAttribute("aria-pressed", base !== null);
}

button.addEventListener("click", () => {
  if (base) keep(null);
  else if (last?.state === "steady") keep(last);
  else tell("By difference: wait until the scale is steady.", true);
  document.dispatchEvent(new Event("bench:changed"));
});
document.addEventListener("scale:reading", (event) => (last = event.detail));
keep(base);

export const isDifference = (pile) => base !== null || pile?.dataset.tub !== undefined;
export const amount = (reading, pile) => amountOf(reading, pile?.dataset, base);

// After a weight was taken: the next difference starts from it, and so does the tub's.
export function wasTaken(reading, pile) {
  if (base) keep(reading);
  if (pile.dataset.tub !== undefined) pile.dataset.tubGross = tubAfter(reading);
}
