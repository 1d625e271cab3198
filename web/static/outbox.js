// The outbox: what was marked waits in this browser until the server has it on disk. One entry of the browser's
// store for every mark, so that two tabs never write over each other.
const waitingKey = (session, key) => `mark ${session} ${key}`, refusedKey = (session, key) => `refused ${session} ${key}`;

function list(prefix, store) {
  const out = [];
  for (let i = 0; i < store.length; i++) {
    const k = store.key(i);
    if (!k.startsWith(prefix)) continue;
    try { out.push(JSON.parse(store.getItem(k))); } catch { /* another program's */ }
  }
  return out;
}

// put keeps a mark until it is acknowledged.
export function put(session, mark, store = localStorage) { store.setItem(waitingKey(session, mark.key), JSON.stringify(mark)); }

// waiting are the marks of a session that are not on the server's disk yet, oldest first.
export function waiting(session, store = localStorage) {
  return list(`mark ${session} `, store).sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
}

// refused are the marks the server would not take, each with its reason; they stay until somebody has read them.
export function refused(session, store = localStorage) { return list(`refused ${session} `, store); }
export function forget(session, key, store = localStorage) { store.removeItem(refusedKey(session, key)); }

// sessions are those with something waiting.
export function sessions(store = localStorage) {
  const out = new Set();
  for (let i = 0; i < store.length; i++) { const m = /^mark (\d+) /.exec(store.key(i)); if (m) out.add(m[1]); }
  return [...out];
}

const most = 50; // marks in one request

// drain sends what waits, in order, until nothing waits or the line is down. Taken is called with every answer.
// It gives how many still wait. Send posts a body and gives a response.
export async function drain(session, { send = post, store = localStorage, after = 0, taken = () => {} } = {}) {
  let size = most;
  for (let q = waiting(session, store); q.length; q = waiting(session, store)) {
    const some = q.slice(0, size);
    let r;
    try { r = await send(session, { marks: some, after }); } catch { return q.length; }
    if (r.ok) {
      const answer = await r.json().catch(() => null);
      if (!answer || !answer.stored) return q.length; // not our server: a page to sign in at
      for (const key of answer.stored) store.removeItem(waitingKey(session, key));
      for (const no of answer.refused) refuse(session, some.find(m => m.key === no.key) || { key: no.key }, no.why, store);
      if (answer.stored.length + answer.refused.length === 0) return q.length;
      after = answer.seq;
      taken(answer);
    } else if (r.status === 400 || r.status === 413 || r.status === 422) {
      if (some.length > 1) { size = 1; continue; } // one of them: each by itself
      refuse(session, some[0], (await r.json().catch(() => ({}))).error || `refused (${r.status})`, store);
    } else if (r.status === 404) {
      for (const m of some) refuse(session, m, "there is no such session", store);
    } else return q.length;
  }
  return 0;
}

function refuse(session, mark, why, store) {
  store.setItem(refusedKey(session, mark.key), JSON.stringify({ ...mark, why }));
  store.removeItem(waitingKey(session, mark.key));
}

const post = (session, body) => fetch(`/teach/${session}/marks`, { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" }, body: JSON.stringify(body), keepalive: body.marks.length < 20 });
