// "Take the reading" puts what the scale shows, with its signature, into the line of a test weight.
let reading = null;
document.addEventListener("scale:reading", (event) => (reading = event.detail));
document.getElementById("check").addEventListener("click", (event) => {
  if (!event.target.matches("[data-read]")) return;
  const said = document.getElementById("said");
  if (reading?.state !== "steady") {
    said.textContent = `Wait until the scale is steady; it is ${reading?.state || "not there"}.`;
    return;
  }
  const line = event.target.closest("tr");
  line.querySelector("[name=shown]").value = reading.weight;
  line.querySelector("[name=proof]").value = JSON.stringify(reading);
  said.textContent = "";
});
// A hand that types has no reading behind it.
document.getElementById("check").addEventListener("input", (event) => {
  if (event.target.name === "shown") event.target.closest("tr").querySelector("[name=proof]").value = "";
});
