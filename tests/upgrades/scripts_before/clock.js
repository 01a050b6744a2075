// The test's clock: it goes on at the step that is turned to, and never goes back to an older answer.
import { newKey } from "./new-key.js";

document.addEventListener("htmx:load", ({ detail: { elt } }) => {
  const clock = document.getElementById("clock");
  const form = clock?.querySelector("form");
  if (elt.id !== "step" || !form || form.elements.step.value === elt.dataset.step) return;
  form.elements.step.value = elt.dataset.step;
  if (document.getElementById("run").value !== "pause") return;
  const csrfmiddlewaretoken = document.querySelector("[name=csrfmiddlewaretoken]").value;
  const values = {
    key: newKey(),
    csrfmiddlewaretoken,
    mark: "start",
    step: elt.dataset.step,
    seen: document.getElementById("seen").value,
  };
  htmx.ajax("POST", form.getAttribute("action"), { target: "#clock", values });
});
// Two answers may pass each other.
document.addEventListener("htmx:beforeSwap", (event) => {
  const shown = document.querySelector("#clock [data-revision]");
  if (event.detail.target.id !== "clock" || !shown) return;
  const [, revision] = event.detail.serverResponse.match(/data-revision="(\d+)"/) || [];
  if (Number(revision) < Number(shown.dataset.revision)) event.detail.shouldSwap = false;
});
