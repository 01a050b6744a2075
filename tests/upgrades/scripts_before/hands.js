// Keys, foot pedal and keypad (plain key events), what a form needs of the chosen pile, and the
// wipe lock. A touched button gives the focus back, so that the pedal's Enter always takes.
import { chosen, refresh, step, takeWeight } from "./bench.js";
import { tell } from "./glass.js";

const form = document.getElementById("take");
const click = (id) => () => document.getElementById(id)?.click();
const count = form.querySelector("[name=portions]");

function moveLast() {
  const move = document.getElementById("move-last");
  const saw = document.querySelector("[name=saw][form=move-last]");
  const to = chosen()?.value;
  if (!saw || !to) return;
  if (saw.value === to) return tell("The last one is on that pile; choose another, then move it.", true);
  move.elements.to.value = to;
  move.requestSubmit();
}

const keys = {
  Enter: takeWeight,
  Backspace: () => document.getElementById("take-back")?.form.requestSubmit(),
  a: click("auto"), d: click("difference"), w: click("wipe"), h: click("take-scale"), p: click("run"), m: moveLast,
  t: () => form.querySelector("[data-order=tare]").click(),
  z: () => form.querySelector("[data-order=zero]").click(),
  u: () => form.querySelector("[data-order=unit]").click(),
  "+": () => step(1), "-": () => step(-1),
  "?": () => {
    const help = document.getElementById("keys");
    help.open ? help.close() : help.show();
  },
};
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
  if (form.inert) return event.preventDefault();
  const at = event.target;
  if (at === count && event.key === "Enter") {
    event.preventDefault();
    return takeWeight();
  }
  if (at.matches("input:not([type=radio]), select, textarea")) return;
  if (event.key === "Enter" && at.closest("a, button, summary") && at.id !== "take-weight") return;
  const pile = document.querySelector(`.pile[data-key="${CSS.escape(event.key)}"] input`);
  const action = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (!pile && !action) return;
  event.preventDefault();
  if (pile) {
    pile.checked = true;
    pile.focus();
    refresh();
  } else action();
});

// detail is 0 when a key pressed the button: then the focus stays where the keys left it.
document.addEventListener("click", (event) => {
  if (event.target.closest("#move-it")) {
    event.preventDefault();
    moveLast();
  }
  const touched = event.target.closest("button, summary");
  if (event.detail && touched && !touched.closest("dialog")) touched.blur();
});

document.addEventListener("submit", (event) => {
  if (event.target.matches("[data-for-pile]")) event.target.elements.pile.value = chosen()?.value || "";
});
document.addEventListener("bench:changed", name);
form.addEventListener("change", name);
function name() {
  const pile = chosen();
  for (const place of document.querySelectorAll("[data-show=pile-name]")) place.textContent = pile?.dataset.name || "No pile";
  for (const choice of document.querySelectorAll("[data-choice]")) {
    const now = pile?.dataset[choice.dataset.choice];
    choice.hidden = now === undefined;
    choice.querySelector("[data-show=now]").textContent = now && now !== "0" ? now : "none";
    for (const each of choice.querySelectorAll("button[name=now]")) each.ariaPressed = String(each.value === now);
  }
}
name();

const WIPE_SECONDS = 10;
const wiping = document.getElementById("wiping");
document.getElementById("wipe").addEventListener("click", () => {
  let left = WIPE_SECONDS;
  const parts = [form, ...document.querySelectorAll(".masthead, #tally, .aside, .drawer, #finish, #holder")];
  const set = (locked) => {
    for (const part of parts) part.inert = locked;
    wiping.hidden = !locked;
  };
  const show = () => (wiping.querySelector("[data-show=seconds]").textContent = left);
  set(true);
  show();
  const ticking = setInterval(() => {
    left -= 1;
    show();
    if (left > 0) return;
    clearInterval(ticking);
    set(false);
    refresh();
  }, 1000);
});
form.dataset.ready = ""; // keys are heard from now on
