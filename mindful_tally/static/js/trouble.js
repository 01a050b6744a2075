// A press that came to nothing says so at the foot of the glass, until one works or it is touched
// away. What a page fetches by itself is quiet; a form that tells its own troubles has data-tells.
import { reason } from "./reason.js";

const bar = document.getElementById("trouble");

function tell({ detail: { elt, xhr, requestConfig } }) {
  const asked = requestConfig.triggeringEvent;
  if (!asked || asked.type === "load" || asked instanceof CustomEvent || elt.closest("[data-tells]")) return;
  const away = requestConfig.verb === "get"
    ? "The server does not answer. Try again."
    : "The server does not answer. Press again: nothing is recorded twice.";
  bar.querySelector("b").textContent = xhr?.status ? reason({ status: xhr.status, html: xhr.responseText }) : away;
  bar.hidden = false;
}

for (const trouble of ["htmx:sendError", "htmx:responseError", "htmx:timeout"]) document.addEventListener(trouble, tell);
document.addEventListener("htmx:afterOnLoad", ({ detail }) => detail.successful && (bar.hidden = true));
bar.addEventListener("click", () => (bar.hidden = true));
