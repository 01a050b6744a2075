// Sends weighings in order, exactly once. What the server has not accepted stays on this tablet
// (local storage, one entry a weighing, so that two tabs never overwrite each other), stays
// visible, and is sent again. bench.js calls tally.send(fields, words).
window.tally = (() => {
  const form = document.getElementById("take");
  const list = document.getElementById("waiting");
  const said = document.getElementById("said");
  if (!form) return {};
  const STORE = `weighing:${form.dataset.test}:`;
  const PAUSES = [500, 1000, 2000, 4000];
  const PATIENCE = 8000;
  let queue = Object.keys(localStorage)
    .filter((name) => name.startsWith(STORE))
    .map((name) => JSON.parse(localStorage.getItem(name)))
    .sort((one, other) => one.at - other.at);
  const glass = matchMedia("(max-width: 620px)");
  let busy = false;
  let tries = 0;

  function keep(item) {
    try {
      localStorage.setItem(STORE + item.fields.key, JSON.stringify(item));
    } catch {
      tell("This tablet's storage is full: do not close the page before the list is empty.", true);
    }
    show();
  }

  function drop(item) {
    queue = queue.filter((other) => other !== item);
    localStorage.removeItem(STORE + item.fields.key);
    show();
  }

  const show = () => list.replaceChildren(...queue.map(row));

  function button(text, action) {
    const made = document.createElement("button");
    made.type = "button";
    made.className = "other";
    made.textContent = text;
    made.onclick = action;
    return made;
  }

  function row(item) {
    const line = document.createElement("li");
    const weight = document.createElement("b");
    weight.textContent = item.words;
    const why = document.createElement("span");
    why.textContent = item.refused || (tries ? "not recorded yet, sent again soon" : "being sent");
    line.append(weight, why);
    if (item.refused) {
      const again = () => {
        item.refused = "";
        keep(item);
        drain();
      };
      line.append(button("Send again", again), button("Remove from this list", () => drop(item)));
    }
    return line;
  }

  function tell(text, trouble = false) {
    said.textContent = text;
    said.classList.toggle("is-trouble", trouble);
  }

  async function post(url, fields) {
    const token = form.querySelector("[name=csrfmiddlewaretoken]").value;
    const seen = document.getElementById("seen").value;
    const body = new URLSearchParams({ ...fields, seen });
    const headers = { "X-CSRFToken": token, "Tally-Glass": glass.matches ? "narrow" : "wide" };
    const answer = await fetch(url, { method: "POST", body, headers, signal: AbortSignal.timeout(PATIENCE) });
    const html = await answer.text();
    // An answer that is not ours (a portal, a proxy) or says 5xx is no answer.
    if (answer.status >= 500 || (answer.ok && !html.includes('id="seen"'))) throw new Error(answer.status);
    return { ok: answer.ok, status: answer.status, html };
  }

  function swap(html) {
    const chosen = document.querySelector("[name=output]:checked")?.value;
    const focused = document.activeElement?.name === "output";
    const template = document.createElement("template");
    template.innerHTML = html;
    for (const part of [...template.content.children]) {
      document.getElementById(part.id)?.replaceWith(part);
    }
    const again = document.querySelector(`[name=output][value="${chosen}"]`);
    if (again) again.checked = true;
    if (again && focused) again.focus({ preventScroll: true });
    document.dispatchEvent(new Event("bench:changed"));
  }

  function reason(answer) {
    const page = new DOMParser().parseFromString(answer.html, "text/html");
    const words = page.querySelector("[data-refused], .told")?.textContent;
    return words || `The server refused it (${answer.status}). Load the page again.`;
  }

  async function drain() {
    const item = queue.find((each) => !each.refused);
    if (busy || !item) return;
    busy = true;
    let again = 0;
    try {
      const answer = await post(form.dataset.capture, item.fields);
      tries = 0;
      if (answer.ok) {
        drop(item);
        swap(answer.html);
        tell(`${item.words} recorded.`);
      } else {
        item.refused = reason(answer);
        keep(item);
        tell("A weighing was not recorded. It is kept below.", true);
      }
    } catch {
      again = PAUSES[Math.min(tries, PAUSES.length - 1)];
      tries += 1;
      tell("The server does not answer. The weighing is kept here and sent again.", true);
    }
    busy = false;
    show();
    setTimeout(drain, again);
  }

  async function recall(url, fields) {
    try {
      const answer = await post(url, fields);
      if (answer.ok) swap(answer.html);
      tell(answer.ok ? "Taken back." : reason(answer), !answer.ok);
    } catch {
      tell("The server does not answer. Nothing was taken back.", true);
    }
  }

  window.addEventListener("online", () => drain());
  show();
  drain();
  return {
    send(fields, words) {
      const item = { fields, words, at: Date.now() };
      queue.push(item);
      keep(item);
      drain();
    },
    recall,
  };
})();
