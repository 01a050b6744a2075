// Pure: what a pile gets from a reading. The server works out the same and its answer stands
// (docs/decisions/0022). A scale's figures are multiples of its division, so rounding back to its
// decimals is exact.
export const decimals = (number) => (String(number).split(".")[1] || "").length;
export const gross = (reading) => Number(reading.weight) + Number(reading.tare || 0);

// What a tub shows after this reading, as the next one is taken from it.
export const tubAfter = (reading) =>
  gross(reading).toFixed(Math.max(decimals(reading.division), decimals(reading.weight)));

// What is shown, what was added since `base` (by difference), or what the pile's tub has gained.
// {value, before, tub_before, words}, or {why} when it cannot be said.
export function amountOf(reading, { tub, tubUnit, tubGross } = {}, base = null) {
  // A tub that took a converted weight stands at more decimals than the scale shows.
  const since = (from) =>
    (gross(reading) - Number(from)).toFixed(Math.max(decimals(reading.division), decimals(from)));
  if (tub !== undefined) {
    if (reading.unit !== tubUnit) return { why: `the tub is weighed in ${tubUnit}` };
    return { value: since(tubGross), tub_before: tubGross, words: `into ${tub}, ${tubGross} before` };
  }
  if (base === null) return { value: reading.weight };
  if (base.unit !== reading.unit || base.scale !== reading.scale) return { why: "the unit changed: press D twice" };
  const from = gross(base).toFixed(decimals(reading.division));
  return { value: since(from), before: JSON.stringify(base), words: `since ${from}` };
}

// How far a portion is from its target, and on which side of its band; all in the reading's unit.
export function offTarget(value, target, low, high) {
  const off = value - target;
  if (value >= low && value <= high) return { off, where: "in the band" };
  return { off, where: off > 0 ? "over the band" : "under the band" };
}
