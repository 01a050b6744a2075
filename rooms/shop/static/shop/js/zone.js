// Offers the time zone that the glass itself is in.
const button = document.querySelector("[data-zone]");
const select = document.getElementById("id_time_zone");
const here = Intl.DateTimeFormat().resolvedOptions().timeZone;

if ([...select.options].some((one) => one.value === here) && select.value !== here) {
  button.querySelector("b").textContent = here.replaceAll("_", " ");
  button.hidden = false;
  button.addEventListener("click", () => {
    select.value = here;
    button.hidden = true;
  });
}
