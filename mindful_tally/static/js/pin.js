// The large keys of the PIN: they type into the field, which keeps the focus for real keys.
const field = document.getElementById("pin");
document.querySelector(".pad").addEventListener("click", (event) => {
  const digit = event.target.dataset.digit;
  if (!digit) return;
  field.value = digit === "back" ? field.value.slice(0, -1) : (field.value + digit).slice(0, 8);
  field.focus();
});
// `autofocus` waits for the first paint: digits typed before it would be lost.
field.focus();
