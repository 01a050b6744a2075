// What the server has not accepted yet, on this tablet's disk: one entry a weighing, in order.
// IndexedDB with strict durability, so that a flat battery keeps it. keep() answers when it is there.
const NAME = "tally";
const TABLE = "waiting";
const opened = new Promise((done, failed) => {
  const asked = indexedDB.open(NAME, 1);
  asked.onupgradeneeded = () => asked.result.createObjectStore(TABLE, { keyPath: "n", autoIncrement: true });
  asked.onsuccess = () => done(asked.result);
  asked.onerror = () => failed(asked.error);
});

async function run(mode, work) {
  const database = await opened;
  return new Promise((done, failed) => {
    const change = database.transaction(TABLE, mode, { durability: "strict" });
    const asked = work(change.objectStore(TABLE));
    change.oncomplete = () => done(asked.result);
    change.onerror = change.onabort = () => failed(change.error);
  });
}

export const all = () => run("readonly", (table) => table.getAll());
export const keep = (item) => run("readwrite", (table) => table.put(item));
export const drop = (n) => run("readwrite", (table) => table.delete(n));
