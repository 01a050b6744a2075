// Sends weighings in order, exactly once. Each is on this tablet's disk (store.js) before it is
// sent and stays there, visible, until the server has it. bench.js calls tally.send(fields, words).
window.tally = (() => {
  const form = document.getElementById("take");
  const list = document.getElementById("waiting");
  const count = document.getElementById("waiting-count");
  if (!form) return {};
  const PAUSES = [500, 1000, 2000, 4000];
  const PATIENCE = 8000;
  const MOST_FAULTS = 4;
  // The server is not there, or its disk is full: no fault of the entry, so it is sent again in its place.
  const AWAY = [502, 503, 504, 507];
  const unkept = []; // only in memory: the disk did not take them
  let queue = [];
  let keeping = Promise.resolve();
  let busy = false, tries = 0;

  const cookie = (name) => document.cookie.match(`(?:^|; )${name}=([^;]*)`)?.[1];

  async function reread() {
    try {
      queue = [...(await store.all()), ...unkept];
    } catch {
      queue = [...unkept];
    }
    list.replaceChildren(...queue.map(row));
    count.hidden = queue.length < 2;
    count.textContent = `${queue.length} weighings wait on this tablet, in this order.`;
  }

  async function keep(item) {
    try {
      item.n = await store.keep(item);
    } catch {
      if (!unkept.includes(item)) unkept.push(item);
      glass.tell("This tablet's storage does not take it: do not close the page before the list is empty.", true);
    }
    await reread();
  }

  async function drop(item) {
    const at = unkept.indexOf(item);
    if (at >= 0) unkept.splice(at, 1);
    else await store.drop(item.n);
    await reread();
  }

  function row(item) {
    const line = document.createElement("li");
    const weight = document.createElement("b");
    weight.textContent = item.words;
    const why = document.createElement("span");
    const of = item.test === form.dataset.test ? "" : ` (test ${item.number})`;
    why.textContent = (item.refused || (tries ? "kept on this tablet, sent again soon" : "being sent")) + of;
    line.append(weight, why);
    if (item.refused) {
      line.append(
        glass.button("Send again", () => keep(Object.assign(item, { refused: "" })).then(() => drain())),
        glass.button("Remove from this list", () => drop(item)),
      );
    }
    return line;
  }

  async function post(url, fields) {
    const token = cookie("csrftoken") || form.querySelector("[name=csrfmiddlewaretoken]").value;
    const body = new URLSearchParams({ ...fields, seen: document.getElementById("seen").value });
    const headers = { "X-CSRFToken": token, "Tally-Glass": glass.width() };
    const answer = await fetch(url, { method: "POST", body, headers, signal: AbortSignal.timeout(PATIENCE) });
    const html = await answer.text();
    // An answer that is not ours (a portal, a proxy) or says 5xx is no answer.
    if (answer.status >= 500 || (answer.ok && !html.includes('id="seen"'))) throw Object.assign(new Error(answer.status), { html });
    return { ok: answer.ok, status: answer.status, html };
  }

  // Returns how long to wait before the next; null when nothing is left to send.
  async function sendFirst() {
    const item = queue.find((each) => !each.refused);
    if (!item) return null;
    const here = item.test === form.dataset.test;
    try {
      const answer = await post(item.url, item.fields);
      if (answer.status === 401) throw new Error(401);
      tries = 0;
      if (answer.ok) {
        await drop(item);
        if (here) glass.swap(answer.html);
        glass.tell(`${item.words} recorded.`);
      } else {
        await keep(Object.assign(item, { refused: glass.reason(answer) }));
        glass.tell("A weighing was not recorded. It is kept below.", true);
      }
      return 0;
    } catch (fault) {
      tries += 1;
      const status = Number(fault.message) || 0;
      if (status >= 500 && !AWAY.includes(status) && (await hasFailedTooOften(item))) return 0;
      glass.tell(status === 401 ? "Nobody is at the block: step up, then what is kept here is sent."
        : status === 507 ? glass.reason({ html: fault.html, status })
        : "The server does not answer. The weighing is kept here and sent again.", true);
      return PAUSES[Math.min(tries, PAUSES.length) - 1];
    }
  }

  // An entry that the server fails on again and again is put aside, so that what was weighed after it goes on.
  async function hasFailedTooOften(item) {
    item.faults = (item.faults || 0) + 1;
    const isAside = item.faults >= MOST_FAULTS;
    if (isAside) {
      Object.assign(item, { refused: `The server failed on it ${item.faults} times. Send it again, or write it down and remove it.`, faults: 0 });
      glass.tell("The server fails on one weighing. It is put aside below; the others are sent.", true);
      tries = 0;
    }
    await keep(item);
    return isAside;
  }

  async function drain() {
    if (busy) return;
    busy = true;
    const all = async () => {
      await reread();
      return sendFirst();
    };
    const wait = await (navigator.locks ? navigator.locks.request("tally", all) : all());
    busy = false;
    if (wait) await reread();
    if (wait !== null) setTimeout(drain, wait);
    else if (queue.some((each) => !each.refused)) drain();
  }

  window.addEventListener("online", () => drain());
  drain();
  return {
    send(fields, words) {
      const { test, number, turn, capture: url } = form.dataset;
      const item = { fields: { ...fields, turn }, words, test, number, url };
      keeping = keeping.then(() => keep(item)).then(() => void drain());
    },
    async recall(url, fields) {
      try {
        const answer = await post(url, fields);
        if (answer.ok) glass.swap(answer.html);
        glass.tell(answer.ok ? "Taken back." : glass.reason(answer), !answer.ok);
      } catch {
        glass.tell("The server does not answer. Nothing was taken back.", true);
      }
    },
  };
})();
