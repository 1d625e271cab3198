// What is typed and not saved is kept in this browser, for each person and page: a reload brings it back, another visit
// offers it with its time. Signing out takes it away.
const who = document.body.dataset.account || "", forms = [...document.querySelectorAll("form[data-draft]")];
const keyOf = form => `draft ${who} ${location.pathname} ${forms.indexOf(form)}`;
const read = key => { try { return JSON.parse(localStorage.getItem(key)); } catch { return null; } };
const text = form => new URLSearchParams([...new FormData(form)].filter(([, v]) => typeof v === "string")).toString();
const wrong = document.querySelector(".wrong-list, .wrong");

function fill(form, typed) {
  const data = new URLSearchParams(typed);
  for (const el of form.elements) {
    if (!el.name || el.type === "file" || el.type === "submit" || el.tagName === "BUTTON") continue;
    if (el.type === "checkbox" || el.type === "radio") el.checked = data.getAll(el.name).includes(el.value);
    else if (el.type === "select-multiple") for (const o of el.options) o.selected = data.getAll(el.name).includes(o.value);
    else if (data.has(el.name)) el.value = data.get(el.name);
  }
}
function offer(form, draft, key) {
  const bar = document.createElement("p"), use = document.createElement("button"), away = document.createElement("button");
  bar.className = "draft";
  bar.setAttribute("role", "status");
  use.type = away.type = "button"; use.className = away.className = "btn btn-outline-primary";
  use.textContent = "Use it"; away.textContent = "Throw it away";
  use.onclick = () => { fill(form, draft.text); bar.remove(); };
  away.onclick = () => { localStorage.removeItem(key); bar.remove(); };
  bar.append(`From ${new Date(draft.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}, not saved. `, use, " ", away);
  form.before(bar);
}
// What was sent and taken in is a draft no more: the page that came after had nothing to say against it.
if (!wrong) for (const key of Object.keys(localStorage).filter(k => k.startsWith("draft "))) { const d = read(key); if (!d || d.sent) localStorage.removeItem(key); }
for (const form of who ? forms : []) {
  const key = keyOf(form), draft = read(key), clean = text(form);
  if (draft && draft.text !== clean && !wrong) {
    if ((performance.getEntriesByType("navigation")[0] || {}).type === "reload") fill(form, draft.text);
    else offer(form, draft, key);
  }
  const keep = () => document.body.dataset.account && localStorage.setItem(key, JSON.stringify({ at: Date.now(), text: text(form) }));
  form.addEventListener("input", keep);
  form.addEventListener("change", keep);
  form.addEventListener("submit", () => { const d = read(key); if (d) localStorage.setItem(key, JSON.stringify({ ...d, sent: true })); });
}
for (const a of document.querySelectorAll("a[data-without]")) a.addEventListener("click", () => { for (const form of forms) localStorage.removeItem(keyOf(form)); });
