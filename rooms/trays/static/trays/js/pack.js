// Packing: what lies on the scale goes to the server as the scale signed it, by a touch or by itself.
// By itself: the scale is empty, then something lies on it and is steady: one tray, until it is empty again.
// Where an answer was lost, the tray may be packed or not: as long as it lies there it is the same
// tray, asked for by the same key; what is put on after it is another.
import { newKey } from "../../js/new-key.js";
import { reason } from "../../js/reason.js";

let reading = null, armed = false, isOut = false, isWanted = false, isUnsure = false;
const EMPTY_DIVISIONS = 2;
const UNSURE = "The server does not answer. Leave the tray where it is and press again: it is packed once. If its label came out, it is packed.";
const form = () => document.getElementById("pack");
const said = (text) => (document.getElementById("said").textContent = text);

function isEmpty(now) {
  return now.weight !== null && Math.abs(Number(now.weight)) <= EMPTY_DIVISIONS * Number(now.division || 0);
}

document.addEventListener("scale:reading", ({ detail }) => {
  reading = detail;
  if (isEmpty(reading)) {
    armed = true;
    another();
  }
  const byItself = armed && form()?.querySelector("[data-by-itself]").checked;
  if ((byItself || isWanted) && !isOut && reading.state === "steady" && !isEmpty(reading)) pack();
});

function another() {
  if (!isUnsure) return;
  isUnsure = false;
  form().elements.key.value = newKey();
}

function pack() {
  if (isOut) return;
  isWanted = reading?.state === "moving";
  if (isWanted) return said("It is packed as soon as the scale is steady.");
  if (reading?.state !== "steady") return said(`The scale is ${reading?.state || "not there"}; look at it, or type the weight.`);
  if (isEmpty(reading)) return said("The scale is empty; put a tray on it.");
  armed = false;
  said("");
  form().elements.proof.value = JSON.stringify(reading);
  form().elements.weight.value = "";
  form().requestSubmit();
}

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-packs]")) {
    event.preventDefault();
    pack();
  } else if (event.target.closest("[data-typed]")) {
    form().elements.proof.value = "";
  }
});
// One tray at a time; the tick stays over the answer.
let ticked = false;
document.addEventListener("htmx:beforeRequest", ({ detail }) => {
  if (detail.elt.id !== "pack") return;
  isOut = true;
  ticked = form().querySelector("[data-by-itself]").checked;
});
document.addEventListener("htmx:afterSwap", ({ detail }) => {
  if (detail.target.id !== "packing") return;
  isOut = isUnsure = false;  // the form itself is another now, so it hears nothing of its own end
  form().querySelector("[data-by-itself]").checked = ticked;
});
document.addEventListener("input", ({ target }) => {
  if (target.closest("#pack") && target.name) another();
});
for (const trouble of ["htmx:sendError", "htmx:responseError", "htmx:timeout"]) {
  document.addEventListener(trouble, ({ detail }) => {
    if (detail.elt.id !== "pack") return;
    isOut = false;
    isUnsure = true;
    form().querySelector("[data-by-itself]").checked = false;
    const { status, responseText: html } = detail.xhr;
    said(status ? reason({ status, html }) : UNSURE);
  });
}
