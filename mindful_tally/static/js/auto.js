// Takes by itself, when it is switched on: once the load has changed and settled, for the chosen
// pile, with a flash and a tone. A load that only became lighter is not taken: without a difference
// the scale must have been cleared since.
(() => {
  const button = document.getElementById("auto");
  if (!button) return;
  const KEPT = "auto", SETTLED = 4;
  const figure = document.querySelector(".scale .figure");
  let isOn = localStorage.getItem(KEPT) === "1";
  let steady = 0, isEmpty = false, isClear = false, sound = null;

  function show() {
    button.setAttribute("aria-pressed", isOn);
    localStorage.setItem(KEPT, isOn ? "1" : "0");
  }

  function tone() {
    if (!sound) return;
    const note = sound.createOscillator(), loudness = sound.createGain();
    loudness.gain.setValueAtTime(0.25, sound.currentTime);
    loudness.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + 0.25);
    note.frequency.value = 880;
    note.connect(loudness).connect(sound.destination);
    note.start();
    note.stop(sound.currentTime + 0.25);
  }

  button.addEventListener("click", () => {
    isOn = !isOn;
    steady = 0;
    isClear = isEmpty; // what lies there already was put on before
    if (isOn) sound ??= new AudioContext();
    show();
    glass.tell(isOn ? "Auto: each load that settles is taken for the chosen pile." : "Auto is off.");
  });

  document.addEventListener("scale:reading", ({ detail: reading }) => {
    isEmpty = reading.weight !== null && Math.abs(Number(reading.weight)) <= 2 * Number(reading.division);
    if (!isOn) return;
    if (isEmpty) isClear = true;
    steady = bench.whyNot() === "" ? steady + 1 : 0;
    if (steady < SETTLED || !(isClear || amount.isDifference(bench.chosen()))) return;
    steady = 0;
    if (!bench.takeWeight()) return;
    isClear = false;
    figure.classList.remove("flash");
    void figure.offsetWidth; // starts the animation again
    figure.classList.add("flash");
    tone();
  });
  show();
})();
