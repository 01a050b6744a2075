// The simulated scanner of the demo: types a case label into the focused field, sign by sign, as a
// scanner does, with the group separator and its prefix, and ends with Enter.
const form = document.getElementById("add-bags");
let serial = Date.now() % 100000;
let last = form.querySelector("textarea");
form.addEventListener("focusin", (event) => { if (event.target.matches("textarea, input")) last = event.target; });
const packed = new Date(Date.now() - 12 * 864e5).toISOString().slice(2, 10).replaceAll("-", "");
const gtin = (body) => {
  const sum = [...body].reduce((total, digit, i) => total + Number(digit) * (i % 2 ? 1 : 3), 0);
  return body + ((10 - (sum % 10)) % 10);
};
const label = (item) => {
  serial += 1;
  const weight = String(500 + (serial * 37) % 300).padStart(6, "0");
  return `]C101${gtin(`950110153${item}`)}3202${weight}13${packed}10L${1000 + (serial % 7)}\u001d21${serial}`;
};
const panel = document.createElement("p");
panel.className = "scanner no-print";
panel.append("Simulated scanner: ");
for (const [name, item] of [["tenderloin case", "0001"], ["rib-eye case", "0002"], ["unknown case", "0099"]]) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = "other";
  button.textContent = name;
  button.onclick = () => {
    last.focus();
    for (const sign of label(item)) last.setRangeText(sign, last.selectionStart, last.selectionEnd, "end");
    if (last.matches("textarea")) last.setRangeText("\n", last.selectionStart, last.selectionEnd, "end");
    last.dispatchEvent(new Event("input", { bubbles: true }));
  };
  panel.append(button);
}
form.querySelector("textarea").after(panel);
