// Sends weighings in order, exactly once. Each is on this tablet's disk (store.js) before it is
// sent and stays there, visible, until the server has it.
import * as glass from "./glass.js";
import * as order from "./order.js";
import { post } from "./post.js";
import { reason } from "./reason.js";
import * as store from "./store.js";

const form = document.getElementById("take");
const list = document.getElementById("waiting");
const count = document.getElementById("waiting-count");
const unkept = []; // only in memory: the disk did not take them
let queue = [];
let keeping = Promise.resolve();
let busy = false;
let tries = 0;

// Read again from the disk, an entry is another object of the same number.
const isThat = (item) => (each) => each === item || (item.n !== undefined && each.n === item.n);

function show() {
  list.replaceChildren(...queue.map(row));
  count.hidden = queue.length < 2;
  count.textContent = `${queue.length} weighings wait on this tablet, in this order.`;
}

// As the disk has it: another page of this tablet may have added or sent some.
async function reread() {
  try {
    queue = [...(await store.all()), ...unkept];
  } catch {
    queue = [...unkept];
  }
  show();
}

async function keep(item) {
  try {
    item.n = await store.keep(item);
  } catch {
    if (!unkept.includes(item)) unkept.push(item);
    glass.tell("This tablet's storage does not take it: do not close the page before the list is empty.", true);
  }
  if (!queue.some(isThat(item))) queue.push(item);
  show();
}

async function drop(item) {
  const at = unkept.indexOf(item);
  if (at >= 0) unkept.splice(at, 1);
  else await store.drop(item.n);
  queue = queue.filter((each) => !isThat(item)(each));
  show();
}

function row(item) {
  const line = document.createElement("li");
  line.classList.toggle("is-being-sent", !item.refused && !tries);
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

const ANSWERS = {
  async taken(item, answer) {
    tries = 0;
    await drop(item);
    if (item.test === form.dataset.test) glass.swap(answer.html);
    glass.tell(`${item.words} recorded.`);
    return 0;
  },
  async refused(item, answer) {
    tries = 0;
    await keep(Object.assign(item, { refused: reason(answer) }));
    glass.tell("A weighing was not recorded. It is kept below.", true);
    return 0;
  },
  async failed(item) {
    const { faults, refused } = order.failed(item);
    await keep(Object.assign(item, { faults, refused }));
    if (!refused) return ANSWERS.away(item, { status: 500 });
    glass.tell("The server fails on one weighing. It is put aside below; the others are sent.", true);
    tries = 0;
    return 0;
  },
  nobody() {
    glass.tell("Nobody is at the block: step up, then what is kept here is sent.", true);
    return order.pause(++tries);
  },
  away(item, answer) {
    glass.tell(answer.status === 507 ? reason(answer)
      : "The server does not answer. The weighing is kept here and sent again.", true);
    return order.pause(++tries);
  },
};

// Returns how long to wait before the next; null when nothing is left to send.
async function sendFirst() {
  const item = order.next(queue);
  if (!item) return null;
  const answer = await post(item.url, item.fields);
  return ANSWERS[order.judge(answer.status, answer.html)](item, answer);
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
  if (wait) show(); // each says that it is kept
  if (wait !== null) setTimeout(drain, wait);
  else if (order.next(queue)) drain();
}

// Keeps a weighing of this test, then sends it. `words`: as the list and the glass say it.
export function send(fields, words) {
  const { test, number, turn, capture: url } = form.dataset;
  const item = { fields: { ...fields, turn }, words, test, number, url };
  keeping = keeping.then(() => keep(item)).then(() => void drain());
}

export async function recall(url, fields) {
  const answer = await post(url, fields);
  const judged = order.judge(answer.status, answer.html);
  if (judged === "taken") glass.swap(answer.html);
  if (judged === "taken") glass.tell("Taken back.");
  else if (judged === "away" || judged === "failed") glass.tell("The server does not answer. Nothing was taken back.", true);
  else glass.tell(reason(answer), true);
}

window.addEventListener("online", () => drain());
drain();
