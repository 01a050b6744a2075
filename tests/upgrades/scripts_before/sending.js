// The queue of what waits on this tablet, without the page: sent in order, exactly once. `store` is the tablet's
// disk, `post` asks the server, `glass` shows and tells. A fault of any of them stops nothing that comes after it.
import * as order from "./order.js";

// Read again from the disk, an entry is another object of the same number.
const isThat = (item) => (each) => each === item || (item.n !== undefined && each.n === item.n);
const alone = (work) => work();

// `answers`: what becomes of an entry by what the server answered, with pauses in ms; null for nothing to wait for.
export function makeQueue({ store, post, glass, answers, together = alone, later = setTimeout }) {
  const unkept = []; // only in memory: the disk did not take them
  const sent = new Set(); // the server has them, the disk did not let them go: never sent again
  let queue = [];
  let keeping = Promise.resolve();
  let busy = false;
  let tries = 0;

  const show = () => {
    try {
      glass.show(queue, tries);
    } catch (fault) {
      console.error(fault);
    }
  };

  // As the disk has it: another page of this tablet may have added or sent some.
  async function reread() {
    try {
      queue = [...(await store.all()).filter((each) => !sent.has(each.n)), ...unkept];
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
    if (item.n !== undefined) {
      sent.add(item.n);
      try {
        await store.drop(item.n);
        sent.delete(item.n);
      } catch {
        glass.tell("This tablet's storage does not let go of a weighing that is recorded. Load the page again.", true);
      }
    }
    queue = queue.filter((each) => !isThat(item)(each));
    show();
  }

  const own = { keep, drop, wait: () => order.pause(++tries), took: () => (tries = 0) };

  // Returns how long to wait before the next; null when nothing is left to send.
  async function sendFirst() {
    const item = order.next(queue);
    if (!item) return null;
    const answer = await post(item.url, item.fields);
    return answers(own)[order.judge(answer.status, answer.html)](item, answer);
  }

  async function drain() {
    if (busy) return;
    busy = true;
    let wait;
    try {
      wait = await together(async () => {
        await reread();
        return sendFirst();
      });
    } catch (fault) {
      console.error(fault);
      wait = order.pause(++tries);
    } finally {
      busy = false;
    }
    if (wait) show(); // each says that it is kept
    if (wait !== null) later(drain, wait);
    else if (order.next(queue)) drain();
  }

  // Keeps an entry, then sends it.
  function send(item) {
    keeping = keeping.catch(() => {}).then(() => keep(item)).then(() => void drain());
    return keeping;
  }

  return { send, keep, drop, drain };
}
