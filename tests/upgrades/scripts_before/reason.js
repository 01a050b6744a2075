// Why the server refused: its own words, from the page or the fragment that it answered with.
export function reason({ status, html }) {
  const page = new DOMParser().parseFromString(html, "text/html");
  const words = page.querySelector("[data-refused], .told")?.textContent;
  return words || `The server refused it (${status}). Load the page again.`;
}
