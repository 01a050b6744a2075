// Sends weighings in order, exactly once. Each is on this tablet's disk (store.js) before it is
// sent and stays there, visible, until the server has it.
import * as glass from "./glass.js";
import * as order from "./order.js";
import { post } from "./post.js";
import { reason } from "./reason.js";
import { makeQueue } from "./sending.js";
import * as store from "./store.js";

const form = document.getElementById("take");
const list = document.getElementById("waiting");
const count = document.getElementById("waiting-count");

function show(waiting, tries) {
  list.replaceChildren(...waiting.map((item) => row(item, tries)));
  count.hidden = waiting.length < 2;
  count.textContent = `${waiting.length} weighings wait on this tablet, in this order.`;
}

function row(item, tries) {
  const line = document.createElement("li");
  line.classList.toggle("is-being-sent", !item.refused && !tries);
  const weight = document.createElement("b");
  weight.textContent = item.words;
  const why = document.createElement("span");
  const of = item.test === form.dataset.test ? "" : ` (test ${item.number})`;
  why.textContent = (item.refused || (tries ? "kept on this tablet, sent again soon" : "being sent")) + of;
  line.append(weight, why);
  if (item.refused) {
    const again = () => queue.keep(Object.assign(item, { refused: "" })).then(() => queue.drain());
    line.append(
      glass.button("Send again", again),
      glass.button("Remove from this list", () => queue.drop(item)),
    );
  }
  return line;
}

const answers = (own) => ({
  async taken(item, answer) {
    own.took();
    await own.drop(item);
    if (item.test === form.dataset.test) glass.swap(answer.html);
    const odd = new DOMParser().parseFromString(answer.html, "text/html").getElementById("unplaced")?.dataset.words;
    glass.tell(odd || `${item.words} recorded.`, Boolean(odd));
    return 0;
  },
  async refused(item, answer) {
    own.took();
    await own.keep(Object.assign(item, { refused: reason(answer) }));
    glass.tell("A weighing was not recorded. It is kept below.", true);
    return 0;
  },
  async failed(item) {
    const { faults, refused } = order.failed(item);
    await own.keep(Object.assign(item, { faults, refused }));
    if (!refused) return answers(own).away(item, { status: 500 });
    glass.tell("The server fails on one weighing. It is put aside below; the others are sent.", true);
    own.took();
    return 0;
  },
  nobody() {
    glass.tell("Nobody is at the block: step up, then what is kept here is sent.", true);
    return own.wait();
  },
  away(item, answer) {
    glass.tell(answer.status === 507 ? reason(answer)
      : "The server does not answer. The weighing is kept here and sent again.", true);
    return own.wait();
  },
});

const together = (work) => (navigator.locks ? navigator.locks.request("tally", work) : work());
const queue = makeQueue({ store, post, glass: { show, tell: glass.tell }, answers, together });

// Keeps a weighing of this test, then sends it. `words`: as the list and the glass say it.
export function send(fields, words) {
  const { test, number, capture: url } = form.dataset;
  // Who stepped up last on this tablet: a page that it kept from before was opened by another.
  const turn = document.cookie.match(/(?:^|; )turn=([^;]*)/)?.[1] || form.dataset.turn;
  document.dispatchEvent(new Event("touched")); // what the scale takes by itself keeps the block open too
  return queue.send({ fields: { ...fields, turn }, words, test, number, url });
}

export async function recall(url, fields) {
  const answer = await post(url, fields);
  const judged = order.judge(answer.status, answer.html);
  if (judged === "taken") glass.swap(answer.html);
  if (judged === "taken") glass.tell("Taken back.");
  else if (judged === "failed") glass.tell("The server failed. Nothing was taken back.", true);
  else if (judged === "away") glass.tell("The server does not answer. Press again only if it still stands as the last.", true);
  else glass.tell(reason(answer), true);
}

window.addEventListener("online", () => queue.drain());
queue.drain();
