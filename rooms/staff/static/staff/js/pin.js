// The large keys of the PIN: they type into the field, which keeps the focus for real keys.
// It runs between the field and the keys: what is typed or touched before it would be lost.
{
  const field = document.getElementById("pin");
  field.form.addEventListener("click", (event) => {
    const digit = event.target.dataset.digit;
    if (!digit) return;
    field.value = digit === "back" ? field.value.slice(0, -1) : (field.value + digit).slice(0, 8);
    field.focus();
  });
  // `autofocus` waits for the first paint.
  field.focus();
}
