// Pure: why a press takes nothing now, in words; "" when it takes.
export function whyNot({ isWiping, other, reading, taken, found, isDifference }) {
  if (isWiping) return "wiping";
  if (other) return other;
  if (reading.state !== "steady") return reading.state;
  if (taken) return "taken, change the load";
  if (found.why) return found.why;
  // By difference one division is noise; on the scale alone anything above nothing is a load.
  const least = isDifference ? Number(reading.division) * 1.0001 : 0;
  if (Number(found.value) > least) return "";
  return isDifference ? "nothing added" : "nothing on the scale";
}

// Whether the load has changed since the reading that was taken: the glass is armed again.
export const hasMoved = (reading, taken) =>
  reading.weight === null ||
  reading.unit !== taken.unit ||
  Math.abs(Number(reading.weight) - Number(taken.weight)) > Number(taken.division) * 1.0001;

// Automatic capture: a load that only became lighter is not taken. Without a difference the scale
// must have been cleared since. Returns what is remembered, and whether to take now.
export const SETTLED = 4;
export function auto({ steady, isClear }, { isEmpty, mayTake, isDifference }) {
  const clear = isClear || isEmpty;
  const count = mayTake ? steady + 1 : 0;
  const takes = count >= SETTLED && (clear || isDifference);
  return { steady: takes ? 0 : count, isClear: clear, takes };
}
