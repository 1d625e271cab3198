// The page after a session drains the outbox before it closes, and says what still waits.
import { drain, forget, refused, waiting } from "/static/outbox.js";

const box = document.getElementById("outbox"), session = box.dataset.session;
const form = document.getElementById("closing");
const print = document.querySelector("[data-print]");
if (print) print.onclick = () => window.print();

function say() {
  const n = waiting(session).length, no = refused(session);
  box.hidden = n === 0 && no.length === 0;
  box.replaceChildren();
  if (n) box.append(p(`${n} ${n === 1 ? "entry waits" : "entries wait"} on this device and ${n === 1 ? "is" : "are"} not stored yet. Closing waits for ${n === 1 ? "it" : "them"}.`));
  for (const m of no) {
    const line = p(`Not taken in: ${m.kind}${m.pain !== undefined ? " " + m.pain : ""}, ${new Date(m.at).toLocaleTimeString()}: ${m.why}. `), b = document.createElement("button");
    b.type = "button"; b.className = "tool"; b.textContent = "Read";
    b.onclick = () => { forget(session, m.key); say(); };
    line.append(b);
    box.append(line);
  }
}
const p = text => { const e = document.createElement("p"); e.textContent = text; return e; };

let sent = 0;
async function all() {
  const before = waiting(session).length;
  const left = await drain(session);
  sent += before - left;
  say();
  return left;
}
async function keep() {
  const left = await all();
  if (left) setTimeout(keep, 2000);
  else if (sent && !form.dataset.touched) location.reload(); // the record has more in it now than this page shows
}
form.addEventListener("input", () => { form.dataset.touched = "yes"; });
form.addEventListener("submit", async e => {
  if (!waiting(session).length) return;
  e.preventDefault();
  if (await all() === 0) form.submit();
});
say();
keep();
