// The outbox without a page: what waits is sent until the server has it, whatever happens on the way.
import assert from "node:assert/strict";
import test from "node:test";
import { drain, forget, put, refused, sessions, waiting } from "../static/outbox.js";

class Store { // as the browser's
  #m = new Map();
  get length() { return this.#m.size; }
  key(i) { return [...this.#m.keys()][i]; }
  getItem(k) { return this.#m.has(k) ? this.#m.get(k) : null; }
  setItem(k, v) { this.#m.set(k, String(v)); }
  removeItem(k) { this.#m.delete(k); }
}
const mark = (key, at = key) => ({ key: String(key), kind: "felt", at: `2026-11-20T09:00:${String(at).padStart(2, "0")}Z` });
const answer = (status, body) => ({ ok: status < 400, status, json: async () => body });
// server keeps what it is sent; keys beginning with x are refused, what is broken answers 400 for all.
function server() {
  const kept = new Map(), s = { kept, requests: 0, twice: 0 };
  s.send = async (id, { marks }) => {
    s.requests++;
    if (marks.some(m => m.key.startsWith("broken"))) return answer(400, { error: "cannot be read" });
    const stored = [], no = [];
    for (const m of marks) if (m.key.startsWith("x")) no.push({ key: m.key, why: "out of range" }); else { if (kept.has(m.key)) s.twice++; kept.set(m.key, m); stored.push(m.key); }
    return answer(200, { stored, refused: no, seq: kept.size });
  };
  return s;
}

test("what is stored is gone from the outbox, in the order it was made", async () => {
  const store = new Store(), s = server();
  for (const k of [3, 1, 2]) put("7", mark(k), store);
  assert.equal(await drain("7", { send: s.send, store }), 0);
  assert.deepEqual([...s.kept.keys()], ["1", "2", "3"]);
  assert.equal(waiting("7", store).length, 0);
});

test("while the line is down everything waits, and nothing is said to be stored", async () => {
  const store = new Store(), s = server();
  for (let k = 10; k < 30; k++) put("7", mark(k), store);
  assert.equal(await drain("7", { send: async () => { throw new Error("offline"); }, store }), 20);
  assert.equal(await drain("7", { send: async () => answer(503, {}), store }), 20);
  assert.equal(await drain("7", { send: async () => answer(401, {}), store }), 20, "signed out: kept until somebody signs in");
  assert.equal(await drain("7", { send: async () => answer(200, null), store }), 20, "a page that is no answer of ours");
  assert.equal(await drain("7", { send: s.send, store }), 0);
  assert.equal(s.kept.size, 20);
});

test("an answer that was lost is asked for again: nothing doubles", async () => {
  const store = new Store(), s = server();
  put("7", mark(1), store);
  let first = true;
  const lossy = async (id, body) => { const r = await s.send(id, body); if (first) { first = false; throw new Error("lost"); } return r; };
  assert.equal(await drain("7", { send: lossy, store }), 1);
  assert.equal(await drain("7", { send: lossy, store }), 0);
  assert.equal(s.kept.size, 1);
});

test("one failure in twenty: all arrive, once each", async () => {
  const store = new Store(), s = server();
  let n = 0;
  const flaky = async (id, body) => (++n % 20 === 0 ? answer(502, {}) : s.send(id, body));
  for (let k = 0; k < 400; k++) { put("7", mark("m" + k, k % 60), store); if (k % 3 === 0) await drain("7", { send: flaky, store }); }
  while (await drain("7", { send: flaky, store })) { /* again */ }
  assert.equal(s.kept.size, 400);
});

test("what is refused is kept with its reason until it was read", async () => {
  const store = new Store(), s = server();
  for (const k of ["a", "x1", "b"]) put("7", mark(k), store);
  assert.equal(await drain("7", { send: s.send, store }), 0);
  assert.deepEqual(refused("7", store).map(m => [m.key, m.why]), [["x1", "out of range"]]);
  forget("7", "x1", store);
  assert.equal(refused("7", store).length, 0);
});

test("one that cannot be read does not hold the others up", async () => {
  const store = new Store(), s = server();
  for (const k of ["a", "broken", "b"]) put("7", mark(k), store);
  assert.equal(await drain("7", { send: s.send, store }), 0);
  assert.deepEqual([...s.kept.keys()].sort(), ["a", "b"]);
  assert.deepEqual(refused("7", store).map(m => m.why), ["cannot be read"]);
});

test("two tabs share one outbox and lose nothing", async () => {
  const store = new Store(), s = server();
  const tab = async name => { for (let k = 0; k < 40; k++) { put("7", mark(name + k, k), store); await drain("7", { send: s.send, store }); } };
  await Promise.all([tab("left"), tab("right")]);
  while (await drain("7", { send: s.send, store })) { /* again */ }
  assert.equal(s.kept.size, 80);
});

test("sessions have outboxes of their own", async () => {
  const store = new Store(), s = server();
  put("7", mark(1), store); put("8", mark(2), store);
  store.setItem("device", '"d"');
  assert.deepEqual(sessions(store), ["7", "8"]);
  await drain("7", { send: s.send, store });
  assert.deepEqual(sessions(store), ["8"]);
});
