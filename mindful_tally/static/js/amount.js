// What the chosen pile would get from a reading: what is shown, what was added since (by
// difference), or what its shared tub has gained. The server works out the same and checks it.
window.amount = (() => {
  const BASE = "difference";
  const button = document.getElementById("difference");
  let base = JSON.parse(sessionStorage.getItem(BASE));
  let last = null;

  const decimals = (number) => (String(number).split(".")[1] || "").length;
  const gross = (reading) => Number(reading.weight) + Number(reading.tare || 0);

  function keep(reading) {
    base = reading;
    if (base) sessionStorage.setItem(BASE, JSON.stringify(base));
    else sessionStorage.removeItem(BASE);
    button?.setAttribute("aria-pressed", base !== null);
  }

  button?.addEventListener("click", () => {
    if (base) keep(null);
    else if (last?.state === "steady") keep(last);
    else glass.tell("By difference: wait until the scale is steady.", true);
    document.dispatchEvent(new Event("bench:changed"));
  });
  document.addEventListener("scale:reading", (event) => (last = event.detail));
  keep(base);

  return {
    // After a weight was taken: the next difference starts from it, and so does the tub's.
    taken(reading, pile) {
      if (base) keep(reading);
      const places = Math.max(decimals(reading.division), decimals(reading.weight));
      if (pile.dataset.tub !== undefined) pile.dataset.tubGross = gross(reading).toFixed(places);
    },
    isDifference: (pile) => base !== null || pile?.dataset.tub !== undefined,
    // {value, before, tub_before, words} or {why} when it cannot be said.
    of(reading, pile) {
      // A tub that took a converted weight stands at more decimals than the scale shows.
      const minus = (from) => (gross(reading) - Number(from)).toFixed(Math.max(decimals(reading.division), decimals(from)));
      const tub = pile?.dataset.tub;
      if (tub !== undefined) {
        if (reading.unit !== pile.dataset.tubUnit) return { why: `the tub is weighed in ${pile.dataset.tubUnit}` };
        const from = pile.dataset.tubGross;
        return { value: minus(from), tub_before: from, words: `into ${tub}, ${from} before` };
      }
      if (base === null) return { value: reading.weight };
      if (base.unit !== reading.unit || base.scale !== reading.scale) return { why: "the unit changed: press D twice" };
      const from = gross(base).toFixed(decimals(reading.division));
      return { value: minus(from), before: JSON.stringify(base), words: `since ${from}` };
    },
  };
})();
