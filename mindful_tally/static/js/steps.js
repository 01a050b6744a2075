// A running clock goes on at the step that is turned to.
document.addEventListener("htmx:load", ({ detail: { elt } }) => {
  const clock = document.getElementById("clock");
  const form = clock?.querySelector("form");
  if (elt.id !== "step" || !form || form.elements.step.value === elt.dataset.step) return;
  form.elements.step.value = elt.dataset.step;
  if (document.getElementById("run").value !== "pause") return;
  const csrfmiddlewaretoken = document.querySelector("[name=csrfmiddlewaretoken]").value;
  const values = { key: bench.newKey(), csrfmiddlewaretoken, mark: "start", step: elt.dataset.step, seen: document.getElementById("seen").value };
  htmx.ajax("POST", form.getAttribute("action"), { target: "#clock", values });
});
// Two answers may pass each other: the clock never goes back to the older one.
document.addEventListener("htmx:beforeSwap", (event) => {
  const shown = document.querySelector("#clock [data-revision]");
  if (event.detail.target.id !== "clock" || !shown) return;
  const [, revision] = event.detail.serverResponse.match(/data-revision="(\d+)"/) || [];
  if (Number(revision) < Number(shown.dataset.revision)) event.detail.shouldSwap = false;
});
// [ and ] turn the step, / goes to the search. Each key does what its link does.
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.matches("input:not([type=radio], [type=checkbox]), select, textarea")) return;
  const target = event.key === "/"
    ? document.getElementById("find")
    : ["[", "]"].includes(event.key) && document.querySelector(`[data-turn="${event.key}"]`);
  if (!target) return;
  event.preventDefault();
  event.key === "/" ? target.focus() : target.click();
});
