// What the server answers is put on the glass, and what is to be said is said there.
const said = document.getElementById("said");
const narrow = matchMedia("(max-width: 620px)");

export const width = () => (narrow.matches ? "narrow" : "wide");

export function tell(text, trouble = false) {
  said.textContent = text;
  said.classList.toggle("is-trouble", trouble);
}

export function swap(html) {
  const chosen = document.querySelector("[name=output]:checked")?.value;
  const focused = document.activeElement?.name === "output";
  const template = document.createElement("template");
  template.innerHTML = html;
  for (const part of [...template.content.children]) document.getElementById(part.id)?.replaceWith(part);
  const again = document.querySelector(`[name=output][value="${chosen}"]`);
  if (again) again.checked = true;
  if (again && focused) again.focus({ preventScroll: true });
  document.dispatchEvent(new Event("bench:changed"));
}

export function button(text, action) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "other";
  made.textContent = text;
  made.onclick = action;
  return made;
}
