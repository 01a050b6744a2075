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
