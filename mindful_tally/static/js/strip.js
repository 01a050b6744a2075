// Moves the marker over the portion strip and says how far the reading is from the target.
// Only the picture: what is recorded is the scale's text, and the core judges it.
(() => {
  const GRAMS = { g: 1, kg: 1000, oz: 28.349523125, lb: 453.59237 };
  const EDGE = 9;
  const hint = document.querySelector("[data-show=hint]");
  if (!hint) return;

  document.addEventListener("scale:reading", (event) => {
    const reading = event.detail;
    const strip = document.querySelector(".strip-of:not([hidden]) .strip");
    const weight = strip && reading.weight !== null ? Number(amount.of(reading, bench.chosen()).value || 0) : 0;
    const grams = weight ? weight * GRAMS[reading.unit] : 0;
    if (!strip || grams <= 0) {
      if (hint.textContent) hint.textContent = "";
      strip?.querySelector(".marker").setAttribute("visibility", "hidden");
      return;
    }
    const at = (name) => Number(strip.dataset[name]);
    const share = (grams - at("low")) / (at("high") - at("low"));
    const width = strip.viewBox.baseVal.width - 2 * EDGE;
    const x = Math.min(Math.max(share, 0), 1) * width + EDGE;
    const marker = strip.querySelector(".marker");
    marker.setAttribute("transform", `translate(${x.toFixed(1)} 4)`);
    marker.setAttribute("visibility", "visible");
    const portions = Number(document.querySelector("[name=portions]").value);
    if (portions > 1) {
      hint.textContent = "";
      return;
    }
    const off = (grams - at("target")) / GRAMS[reading.unit];
    const places = (reading.division.split(".")[1] || "").length;
    const within = grams >= at("bandLow") && grams <= at("bandHigh");
    const where = within ? "in the band" : off > 0 ? "over the band" : "under the band";
    hint.innerHTML = `<b>${where}</b>, ${Math.abs(off).toFixed(places)} ${off >= 0 ? "over" : "under"} target`;
  });
})();
