// Moves the seam of give and take. The server sent every stop with its figures; a move looks them up,
// and the sums below come from the server when the hand rests.
function move(holder, amount) {
  const stops = () => [...holder.querySelectorAll("#stops li")];
  const goesUp = (picture) => picture.classList.contains("way-up");
  let dragged = false;

  function nearest(event) {
    const picture = holder.querySelector("svg.moved");
    const where = new DOMPoint(event.clientX, event.clientY).matrixTransform(picture.getScreenCTM().inverse());
    const at = goesUp(picture) ? where.y : where.x;
    const off = (stop) => Math.abs(Number(stop.dataset.at) - at);
    return stops().reduce((best, stop) => (off(stop) < off(best) ? stop : best));
  }

  function moveTo(stop) {
    if (!stop || stop.dataset.amount === amount.value) return;
    const picture = holder.querySelector("svg.moved");
    const seam = picture.querySelector(".seam");
    const at = Number(stop.dataset.at);
    const by = at - Number(seam.dataset.at);
    seam.setAttribute("transform", goesUp(picture) ? `translate(0 ${by})` : `translate(${by} 0)`);
    seam.setAttribute("aria-valuenow", stop.dataset.amount);
    seam.setAttribute("aria-valuetext", stop.textContent);
    const taken = picture.querySelector(".takes");
    if (goesUp(picture)) {
      taken.setAttribute("y", at);
      taken.setAttribute("height", picture.viewBox.baseVal.height - at);
    } else taken.setAttribute("width", at);
    holder.querySelector("#seam-says").textContent = stop.textContent;
    amount.value = stop.dataset.amount;
    amount.dispatchEvent(new Event("input", { bubbles: true }));
  }

  holder.addEventListener("pointerdown", (event) => {
    if (!event.target.closest("svg.moved") || !stops().length) return;
    dragged = true;
    holder.setPointerCapture(event.pointerId);
    moveTo(nearest(event));
  });
  holder.addEventListener("pointermove", (event) => dragged && moveTo(nearest(event)));
  for (const kind of ["pointerup", "pointercancel"]) holder.addEventListener(kind, () => { dragged = false; });

  const STEPS = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 };
  holder.addEventListener("keydown", (event) => {
    if (!event.target.closest(".seam") || !(event.key in STEPS)) return;
    event.preventDefault();
    const all = stops();
    const here = all.findIndex((stop) => Number(stop.dataset.amount) >= Number(amount.value));
    const from = here < 0 ? all.length - 1 : here;
    moveTo(all[Math.min(Math.max(from + STEPS[event.key], 0), all.length - 1)]);
  });
}

const seamHolder = document.querySelector("[data-seam]");
const typed = document.getElementById("in-amount");
if (seamHolder && typed) move(seamHolder, typed);
