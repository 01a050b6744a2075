// Dragging a price. The page never computes: the server sends the core's figures for every price
// the product may have, once when a slider is touched, and each move only looks them up.
function drag(form) {
  let table = null; // { row, at, stops } of the slider in use
  let asking = "";
  let waiting = null; // a move that came before the figures
  const open = new Set();

  const put = (holder, name, text) => {
    const place = holder && holder.querySelector(`[data-of="${name}"]`);
    if (place) place.textContent = text;
    return place;
  };

  function show(slider) {
    const row = slider.dataset.drags;
    if (!table || table.row !== row) {
      waiting = slider;
      return;
    }
    const stop = table.stops[Number(slider.value)];
    if (!stop) return;
    const line = form.querySelector(`[data-row="${row}"]`);
    form.elements[`price-${row}`].value = stop.price;
    slider.setAttribute("aria-valuetext", stop.shown);
    for (const name of ["margin", "markup", "why", "sticker", "other"]) put(line, name, stop[name]);
    line.querySelector('[data-of="sticker"]').classList.toggle("is-over", stop.over);
    const live = form.querySelector("[data-live]");
    for (const name of ["whole", "of_cost", "gp", "sales"]) put(live, name, stop[name]);
    live.querySelectorAll("[data-box]").forEach((box, i) => {
      box.setAttribute("x", stop.bar[i][0]);
      box.setAttribute("width", stop.bar[i][1]);
    });
    live.querySelector("[data-post]").setAttribute("x1", stop.post);
    live.querySelector("[data-post]").setAttribute("x2", stop.post);
    const troubles = form.querySelector("[data-troubles]");
    troubles.replaceChildren();
    if (stop.crossed) {
      const told = document.createElement("p");
      told.className = "told";
      told.textContent = stop.crossed;
      troubles.append(told);
    }
  }

  async function ask(slider) {
    const row = slider.dataset.drags;
    if ((table && table.row === row) || asking === row) return;
    asking = row;
    const fields = new URLSearchParams(new FormData(form));
    fields.delete("csrfmiddlewaretoken");
    fields.set("row", row);
    try {
      const answer = await fetch(`${form.dataset.drag}?${fields}`);
      if (answer.ok && asking === row) {
        table = { row, ...(await answer.json()) };
        if (waiting && waiting.isConnected) show(waiting);
      }
    } finally {
      asking = "";
      waiting = null;
    }
  }

  const slider = (event) => (event.target.matches && event.target.matches("[data-drags]") ? event.target : null);
  for (const kind of ["pointerdown", "focusin", "pointerover"]) {
    form.addEventListener(kind, (event) => slider(event) && ask(slider(event)));
  }
  form.addEventListener("input", (event) => {
    if (!slider(event)) return;
    ask(event.target);
    show(event.target);
  });
  // The table is made anew when the hand rests, not at every step of a key.
  let resting = 0;
  const changed = (field) => field.dispatchEvent(new Event("change", { bubbles: true }));
  function rest(moved) {
    clearTimeout(resting);
    const price = form.elements[`price-${moved.dataset.drags}`];
    resting = setTimeout(() => (asking ? rest(moved) : changed(price)), 400);
  }
  form.addEventListener("change", (event) => {
    const moved = slider(event);
    if (!moved) return;
    event.stopPropagation();
    rest(moved);
  }, true);
  // Every request sends the whole page. What is moved or typed after it asks anew: an answer to
  // the page as it was would take it out of the hand.
  let isOlder = false;
  form.addEventListener("input", () => { isOlder = true; });
  form.addEventListener("htmx:beforeRequest", () => {
    isOlder = false;
    clearTimeout(resting);
  });
  form.addEventListener("focusout", (event) => isOlder && !slider(event) && changed(form));
  form.addEventListener("toggle", (event) => {
    const kept = event.target.dataset.keeps;
    if (kept) open[event.target.open ? "add" : "delete"](kept);
  }, true);

  // A new table has new figures; what was open and where the focus was stays.
  let focus = "";
  document.body.addEventListener("htmx:beforeSwap", (event) => {
    if (isOlder) event.detail.shouldSwap = false;
    const now = document.activeElement;
    focus = now && form.contains(now) ? (now.dataset.drags ? `[data-drags="${now.dataset.drags}"]` : now.name && `[name="${now.name}"]`) : "";
  });
  document.body.addEventListener("htmx:afterSettle", () => {
    table = null;
    for (const kept of open) {
      const details = form.querySelector(`[data-keeps="${kept}"]`);
      if (details) details.open = true;
    }
    const back = focus && form.querySelector(focus);
    if (back) {
      back.focus();
      if (back.matches("[data-drags]")) ask(back);
    }
  });

  // What was dragged or typed before the scripts were there counts once they are.
  document.body.addEventListener("htmx:load", () => {
    const early = [...form.elements].filter((field) => field.defaultValue && field.value !== field.defaultValue);
    const moved = early.find((field) => field.matches("[data-drags]"));
    if (moved) {
      ask(moved);
      show(moved);
      rest(moved);
    } else if (early.length) changed(form);
  }, { once: true });
}

const pricing = document.getElementById("pricing");
if (pricing) drag(pricing);
