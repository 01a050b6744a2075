// The sums of a moved cut: differences of what the server sent for every place of the grid.

// What lies between two places: its words, and whether it keeps the limits of its product.
export function between(grid, start, end, product) {
  const mm = grid.at[end] - grid.at[start];
  const slice = grid.weights[end] - grid.weights[start];
  const rest = grid.rest ? grid.rest[end] - grid.rest[start] : 0;
  const thickness = grid.words[end - start] ?? "";
  if (product === null) {
    return { thickness, weight: slice.toFixed(grid.decimals), isRight: true, cents: rest, sold: 0, dot: 0 };
  }
  const kind = grid.kinds[product];
  const weight = slice * kind.kept;
  const isRight = within(weight, kind.light, kind.heavy) && within(mm, kind.thin, kind.thick);
  const money = grid.cents[isRight ? kind.slope : kind.outside];
  return {
    thickness,
    weight: weight.toFixed(grid.decimals),
    isRight,
    cents: money[end] - money[start] + (isRight ? kind.fixed : 0),
    sold: isRight ? weight * kind.across : 0,
    dot: dot(weight, kind),
  };
}

function within(value, least, most) {
  const slack = 1e-6;
  return (least === null || value >= least - slack) && (most === null || value <= most + slack);
}

function dot(weight, { light, heavy }) {
  if (light === null || heavy === null) return 46;
  const off = (weight - (light + heavy) / 2) / Math.max((heavy - light) / 2, 1e-9);
  return 46 - Math.min(Math.max(off, -2), 2) * 23;
}

// Where a cut may go: at least one place beside its neighbours, behind their kerf.
export function moved(places, number, place, grid) {
  const least = number ? places[number - 1] + grid.kerf + 1 : 1;
  const most = number + 1 < places.length ? places[number + 1] - grid.kerf - 1 : grid.at.length - 2 - grid.kerf;
  return Math.min(Math.max(place, least), most);
}
