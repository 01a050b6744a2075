// Moves the marker over the portion strip and says how far the reading is from the target.
// Only the picture: what is recorded is the scale's text, and the core judges it.
import { decimals, offTarget } from "./amounts.js";
import { chosen } from "./bench.js";
import { amount } from "./difference.js";

const hint = document.querySelector("[data-show=hint]");
const GRAMS = JSON.parse(document.getElementById("take").dataset.grams); // of one of each unit

function hide(strip) {
  if (hint.textContent) hint.textContent = "";
  strip?.querySelector(".marker").setAttribute("visibility", "hidden");
}

document.addEventListener("scale:reading", ({ detail: reading }) => {
  const strip = document.querySelector(".strip-of:not([hidden]) .strip");
  if (!strip || reading.weight === null) return hide(strip);
  const value = Number(amount(reading, chosen()).value || 0);
  if (value <= 0) return hide(strip);
  const at = (name) => Number(strip.dataset[name]) / Number(GRAMS[reading.unit]);
  const edge = Number(strip.dataset.edge);
  const share = (value - at("low")) / (at("high") - at("low"));
  const x = Math.min(Math.max(share, 0), 1) * (strip.viewBox.baseVal.width - 2 * edge) + edge;
  const marker = strip.querySelector(".marker");
  marker.setAttribute("transform", `translate(${x.toFixed(1)} 4)`);
  marker.setAttribute("visibility", "visible");
  if (Number(document.querySelector("[name=portions]").value) > 1) {
    hint.textContent = "";
    return;
  }
  const { off, where } = offTarget(value, at("target"), at("bandLow"), at("bandHigh"));
  const by = Math.abs(off).toFixed(decimals(reading.division));
  hint.innerHTML = `<b>${where}</b>, ${by} ${off >= 0 ? "over" : "under"} target`;
});
