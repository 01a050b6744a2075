// Sends fields to the server with what it asks of every change from a glass.
import { width } from "./glass.js";

const PATIENCE = 8000;
const cookie = (name) => document.cookie.match(`(?:^|; )${name}=([^;]*)`)?.[1];

// {status, html}; status 0 when nothing answered.
export async function post(url, fields) {
  const token = cookie("csrftoken") || document.querySelector("#take [name=csrfmiddlewaretoken]").value;
  const body = new URLSearchParams({ ...fields, seen: document.getElementById("seen").value });
  const headers = { "X-CSRFToken": token, "Tally-Glass": width() };
  try {
    const answer = await fetch(url, { method: "POST", body, headers, signal: AbortSignal.timeout(PATIENCE) });
    return { status: answer.status, html: await answer.text() };
  } catch {
    return { status: 0, html: "" };
  }
}
