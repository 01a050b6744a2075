// Small conveniences of office pages: a choice that shows at once, and the print button.
document.addEventListener("change", (event) => {
  if (event.target.matches("[data-submits]")) event.target.form.submit();
});
document.addEventListener("click", (event) => {
  if (event.target.closest("[data-prints]")) window.print();
});
