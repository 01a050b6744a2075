// Pure: in which order what waits on this tablet is sent, and what an answer means for it.
const PAUSES = [500, 1000, 2000, 4000];
export const MOST_FAULTS = 4;
// The server is not there, its disk is full, or something between took too long or too many: no fault of the
// entry, it is sent again in its place.
const AWAY = [408, 425, 429, 502, 503, 504, 507];

// The oldest that was not refused; what was refused waits for a hand.
export const next = (queue) => queue.find((each) => !each.refused) ?? null;
export const pause = (tries) => PAUSES[Math.min(Math.max(tries, 1), PAUSES.length) - 1];

// "taken", "refused", "nobody" (step up first), "away" (again, in its place) or "failed" (its own fault).
// An answer that is not ours (a portal, a proxy) is no answer.
export function judge(status, html) {
  if (status === 401) return "nobody";
  if (status === 0 || AWAY.includes(status)) return "away";
  if (status >= 500) return "failed";
  if (status >= 400) return "refused";
  return html.includes('id="seen"') ? "taken" : "away";
}

// An entry the server fails on again and again is put aside, so that what was weighed after it goes on.
export function failed(item) {
  const faults = (item.faults || 0) + 1;
  if (faults < MOST_FAULTS) return { ...item, faults };
  const refused = `The server failed on it ${faults} times. Send it again, or write it down and remove it.`;
  return { ...item, faults: 0, refused };
}
