// Takes by itself, when it is switched on: once the load has changed and settled, for the chosen
// pile, with a flash and a tone.
import { chosen, takeWeight, whyNot } from "./bench.js";
import { isDifference } from "./difference.js";
import { tell } from "./glass.js";
import * as press from "./press.js";

const KEPT = "auto";
const button = document.getElementById("auto");
const figure = document.querySelector(".scale .figure");
let isOn = localStorage.getItem(KEPT) === "1";
let settling = { steady: 0, isClear: false };
let isEmpty = false;
let sound = null;

function show() {
  button.setAttribute("aria-pressed", isOn);
  localStorage.setItem(KEPT, isOn ? "1" : "0");
}

function tone() {
  if (!sound) return;
  const note = sound.createOscillator();
  const loudness = sound.createGain();
  loudness.gain.setValueAtTime(0.25, sound.currentTime);
  loudness.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + 0.25);
  note.frequency.value = 880;
  note.connect(loudness).connect(sound.destination);
  note.start();
  note.stop(sound.currentTime + 0.25);
}

button.addEventListener("click", () => {
  isOn = !isOn;
  settling = { steady: 0, isClear: isEmpty }; // what lies there already was put on before
  if (isOn) sound ??= new AudioContext();
  show();
  tell(isOn ? "Auto: each load that settles is taken for the chosen pile." : "Auto is off.");
});

document.addEventListener("scale:reading", ({ detail: reading }) => {
  isEmpty = reading.weight !== null && Math.abs(Number(reading.weight)) <= 2 * Number(reading.division);
  if (!isOn) return;
  const { takes, ...now } = press.auto(settling, {
    isEmpty,
    mayTake: whyNot() === "",
    isDifference: isDifference(chosen()),
  });
  settling = now;
  if (!takes || !takeWeight()) return;
  settling.isClear = false;
  figure.classList.remove("flash");
  void figure.offsetWidth; // starts the animation again
  figure.classList.add("flash");
  tone();
});
show();
