// A cut line follows a finger or the arrow keys. Figures are the server's: the page subtracts and looks up.
import { between, moved } from "./slices.js";

const side = document.querySelector(".side");
const grid = JSON.parse(document.getElementById("grid").textContent);
const cuts = [...side.querySelectorAll(".cut")];
const parts = [...side.querySelectorAll("[data-part]")];
const thick = [...side.querySelectorAll("[data-thick]")];
const dots = [...document.querySelectorAll("[data-dot]")];
const left = Number(side.dataset.left);
const scale = Number(side.dataset.scale);
const strips = [...document.querySelectorAll("[data-strip]")].map((link) => [link, link.href]);
const places = cuts.map((cut) => Number(cut.getAttribute("aria-valuenow")));
const x = (place) => left + grid.at[place] * scale;
let held = -1;

function draw() {
  const ends = [0, ...places, grid.at.length - 1];
  let cents = 0;
  let sold = 0;
  const labelled = new Map(); // by row: a label that would run into the last one is left out
  for (const [number, part] of parts.entries()) {
    const start = number ? ends[number] + grid.kerf : 0;
    const found = between(grid, start, ends[number + 1], grid.products[number]);
    part.setAttribute("x", x(start));
    part.setAttribute("width", Math.max(x(ends[number + 1]) - x(start), 0));
    const middle = (x(start) + x(ends[number + 1])) / 2;
    thick[number].setAttribute("x", middle);
    const row = thick[number].getAttribute("y");
    const isLabelled = !(middle - labelled.get(row) < 46);
    if (isLabelled) labelled.set(row, middle);
    thick[number].textContent = isLabelled ? found.thickness : "";
    thick[number].classList.toggle("is-off", !found.isRight);
    const dot = dots[number];
    dot.querySelector("text").setAttribute("x", middle);
    dot.querySelector("text").textContent = x(ends[number + 1]) - x(start) < 30 ? "" : found.weight;
    const circle = dot.querySelector("circle");
    if (circle) {
      circle.setAttribute("cx", middle);
      circle.setAttribute("cy", found.dot);
      circle.setAttribute("class", found.isRight ? "good" : "off");
    }
    cents += found.cents;
    sold += found.sold;
  }
  for (const [number, cut] of cuts.entries()) {
    const at = x(places[number]);
    cut.querySelector("line").setAttribute("x1", at);
    cut.querySelector("line").setAttribute("x2", at);
    cut.querySelector(".grip").setAttribute("x", at - 14);
    cut.setAttribute("aria-valuenow", places[number]);
    cut.setAttribute("aria-valuetext", grid.words[places[number]]);
  }
  document.querySelector("[data-marks]").textContent = places.map((place) => grid.words[place]).join(" · ");
  document.querySelector("[data-money]").textContent = (cents / 100).toFixed(2);
  document.querySelector("[data-left-over]").textContent = `${(grid.weights.at(-1) - grid.elsewhere - sold).toFixed(grid.decimals)} ${grid.unit}`;
  document.querySelector("[data-moved]").hidden = false;
  for (const [link, asked] of strips) link.href = `${asked}${asked.endsWith("?") ? "" : "&"}marks=${places.join(",")}`;
}

function to(number, place) {
  const next = moved(places, number, place, grid);
  if (next === places[number]) return;
  places[number] = next;
  draw();
}

function under(event) {
  const box = side.getBoundingClientRect();
  const mm = (((event.clientX - box.left) / box.width) * side.viewBox.baseVal.width - left) / scale;
  return Math.round(mm / grid.step);
}

for (const [number, cut] of cuts.entries()) {
  cut.addEventListener("pointerdown", (event) => {
    held = number;
    cut.classList.add("is-held");
    cut.setPointerCapture(event.pointerId);
  });
  cut.addEventListener("pointermove", (event) => {
    if (held === number) to(number, under(event));
  });
  for (const end of ["pointerup", "pointercancel"]) {
    cut.addEventListener(end, () => {
      held = -1;
      cut.classList.remove("is-held");
    });
  }
  cut.addEventListener("keydown", (event) => {
    const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -8, PageUp: 8 }[event.key];
    if (!by) return;
    event.preventDefault();
    to(number, places[number] + by);
  });
}
