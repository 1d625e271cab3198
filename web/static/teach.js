// The player: draws the score, and nothing else. score.js tells from marks and the time where the session is, and
// what is shown and heard; this page takes touches and keys, and keeps each as a mark until it is stored.
import { load } from "/static/film.js";
import { drain, put, waiting } from "/static/outbox.js";
import { easeOf, heard, leading, lineAt, next, ordered, owed, remains, saysOf, setAfter, setEnd, setStart, signs, state, unseen } from "/static/score.js";

const id = document.body.dataset.session;
const $ = n => document.getElementById(n);
const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
const read = (key, other) => { try { return JSON.parse(localStorage.getItem(key)) ?? other; } catch { return other; } };
const uuid = () => crypto.randomUUID ? crypto.randomUUID() : Date.now() + "-" + Math.random();
const device = read("device", null) || (() => { const d = uuid(); localStorage.setItem("device", JSON.stringify(d)); return d; })();
const capital = w => w.charAt(0).toUpperCase() + w.slice(1);

let data, score, marks = [], st, shown = -1, lastPos = 0, film = null, left = false, offset = 0, seq = 0, showing = null;
const films = new Map(), pictures = new Map();
const now = () => Date.now() / 1000 + offset;
const likes = { words: "full", count: "up", tones: { start: true, half: false, last: true, end: true }, voice: false, numbers: false, awake: true, hand: "", keys_off: false, keys: {} };

// A mark is kept in this browser before anything else, and again until the server has it on disk.
function mark(kind, more) {
  const own = member && undoKinds.concat("fault").includes(kind) && kind !== "seek" && (kind !== "change" || more.what === "skip" && more.to === undefined) ? { member } : {};
  const m = Object.assign(own, more, { key: uuid(), device, at: new Date(Math.round(now() * 1000)).toISOString(), rev: score.rev, pos: Math.round(1000 * (st ? st.pos : 0)) / 1000, kind });
  put(id, m);
  marks.push(m);
  if (st) st = state(score, marks, now()); // what is marked next is marked where the clock is now
  send();
  return m;
}
// here is where a mark is made: item, side, set and repetition.
// On the way to the next position it is about what just ended.
function about() {
  const s = st.segment;
  return s.kind === "move" || s.kind === "finish" ? score.segments.slice(0, st.index).findLast(x => x.kind === "work") || s : s;
}
// A question is about where it was asked, however long the answer takes.
let bound = null;
const here = () => bound || whereNow();
const second = () => st.segment.kind === "work" ? at3(st.into) : 0; // of the repetition, or of the hold
const whereNow = () => { const s = about(); return { item: s.item, side: score.items[s.item].side === "alternate" ? "alternate" : s.side || "none", set: s.set || 0, rep: s.kind === "work" ? s.rep || 0 : 0 }; };

let sending = null, again = false, timer = null, renewing = null;
function send() {
  if (sending) again = true; else sending = sendAll();
  return sending;
}
async function sendAll() {
  clearTimeout(timer);
  const waits = await drain(id, { after: seq, taken: take });
  sending = null;
  stored(waits);
  if (again) { again = false; send(); } else if (waits) timer = setTimeout(send, 2000);
}
// answered waits, for a while, until what was marked is answered: what is left is left in the seconds as they are now.
async function answered() {
  const until = performance.now() + 3000;
  while ((sending || renewing) && performance.now() < until) await Promise.race([sending, renewing, new Promise(done => setTimeout(done, 250))].filter(Boolean)).catch(() => {});
}
function stored(waits) {
  const text = waits ? `${waits} not stored yet, sending again` : "stored";
  write("saved", text);
  $("saved").className = "t-saved" + (waits ? " waits" : "");
}
// take brings in what other devices marked.
function take(answer) {
  seq = Math.max(seq, answer.seq || 0);
  for (const m of answer.marks || []) if (!marks.some(k => k.key === m.key)) { marks.push(m); if (m.rev > score.rev) renew(); }
  if (answer.refused && answer.refused.length) hint(`Not taken in: ${answer.refused.map(r => r.why).join("; ")}. It is kept on the page after the session.`);
  if (answer.rev > score.rev || answer.class_rev > data.class_rev) renew();
  if (answer.say && answer.say.length && $("sheet").className.indexOf("urgent") < 0) follows = capital(answer.say.join(". ")) + ".";
  if (answer.do && answer.do.length) urgent(answer.do);
  else if (st && (answer.marks || []).length) checkSigns();
  if (answer.ended && !left) { left = true; go(`/teach/${id}/after`); }
}
async function listen() { // what others mark is here within seconds
  try {
    const r = await fetch(`/teach/${id}/marks?after=${seq}`, { headers: { Accept: "application/json" } });
    if (r.ok) take(await r.json());
    else if (r.status === 401) hint("Signed out. Sign in again in another tab; what is marked waits here.");
    if (waiting(id).length && !sending) send();
  } catch { stored(waiting(id).length); }
  if (!left) setTimeout(listen, 1500);
}

const leads = () => { const d = leading(marks); return !d || d === device; };

// All films are there before anything moves; a figure never stands under another name.
async function filmOf(item, side) {
  const it = score.items[item], ease = easeOf(it, side), key = [it.version, it.surface, ease, side].join(" ");
  if (films.has(key)) return films.get(key);
  const q = (side ? `side=${side}&` : "") + `build=${data.build}&surface=${it.surface}` + (ease ? `&ease=${ease}` : "");
  const got = load(`/figures/${it.version}/film?${q}`, it.name).then(({ film: f, svg }) => ({ film: f, svg, index: new Map(f.doc.phases.map((p, i) => [p.name, i])) })).catch(() => { films.delete(key); return null; });
  films.set(key, got);
  const done = await got;
  if (done) films.set(key, done);
  return done;
}
function picture(url, alt) {
  if (!pictures.has(url)) { const img = document.createElement("img"); img.src = url; img.alt = alt; pictures.set(url, img); }
  return pictures.get(url);
}
const poseOf = step => picture(`/poses/${step.pose}.svg?build=${data.build}${step.surface ? `&surface=${step.surface}` : ""}`, step.say);
const thumb = item => { const it = score.items[item]; return `/figures/${it.version}.svg?thumb=1&surface=${it.surface}${easeOf(it, null) ? "&ease=" + easeOf(it, null) : ""}&build=${data.build}`; };
const sideIn = s => s.side === "left" || s.side === "right" ? s.side : null;
async function loadAll(first) {
  const wanted = new Map();
  for (const s of score.segments) {
    if (s.steps && s.steps.length) for (const step of s.steps) poseOf(step);
    else wanted.set(s.item + " " + sideIn(s), [s.item, sideIn(s)]);
    picture(thumb(s.item), "");
  }
  let done = 0;
  await Promise.all([...wanted.values()].map(async ([item, side]) => { await filmOf(item, side); if (first) write("name", `Loading, ${++done} of ${wanted.size}`); }));
}
function showFilm() {
  const s = st.segment, step = s.steps && s.steps.length ? st.step || s.steps[0] : null;
  film = null;
  if (step) { swap(poseOf(step)); return; }
  const it = score.items[s.item], key = [it.version, it.surface, easeOf(it, sideIn(s)), sideIn(s)].join(" "), got = films.get(key);
  if (got && got.svg) { film = got; swap(got.svg); return; }
  const p = document.createElement("p");
  p.textContent = "The figure could not be loaded.";
  swap(p);
  const index = st.index;
  filmOf(s.item, sideIn(s)).then(f => { if (f && st.index === index) { film = f; swap(f.svg); } });
}
const swap = node => { if ($("film").firstChild !== node) $("film").replaceChildren(node); };
function pose() {
  if (!film) return;
  if (showing !== null) { film.film.run((now() - showing) * 0.5); return; }
  if (!st.figure) return;
  const a = film.index.get(st.figure.from), z = film.index.get(st.figure.to), last = film.film.doc.phases.length - 1;
  if (a === undefined || z === undefined) return;
  if (still) film.film.show(z, z, 0);
  else if (st.segment.direction === "back" && a < z && z === last && last > 1) film.film.show(z, a, 1 - st.figure.share);
  else film.film.show(a, z, st.figure.share);
}

function write(name, text) { const e = $(name); text = String(text); if (e.textContent !== text) e.textContent = text; }
// fitted writes what does not fit its place smaller, so that no sentence is cut.
function fitted(e) {
  e.classList.remove("long");
  e.classList.toggle("long", e.scrollHeight > 1.25 * e.clientHeight || e.scrollWidth > e.clientWidth);
}
addEventListener("resize", () => ["side", "cue"].forEach(name => fitted($(name))));
function show() {
  const s = st.segment, it = score.items[s.item], words = data.words[st.index], coming = next(score, st.index);
  write("name", it.name);
  write("mind", (data.minds[s.item] || []).join(" "));
  const side = $("side"), sides = it.sides || {};
  side.textContent = st.side ? sides[st.side] || capital(st.side) + " side" : s.in_turn || it.side === "alternate" ? "Sides in turn" : "";
  side.className = "t-side " + (st.side || "");
  write("cue", s.kind === "move" || s.kind === "finish" ? "" : words.cue || (s.kind === "rest" ? "Rest. How did that feel?" : ""));
  fitted(side);
  fitted($("cue"));
  const load = s.kind === "setup" ? loadWords(loadOf(s.item)) : "";
  const says = saysOf(it, st.side);
  write("feel", (load ? `Last time: ${load}. ` : "") + (says.feel ? "Felt: " + says.feel + "." : ""));
  write("stop", says.stop && says.stop.length ? "Stop: " + says.stop.join(", ") + "." : "");
  const again = s.kind === "rest" || s.kind === "change" ? setAfter(score, st.index) : null; // the next set of the same
  write("next", again ? `Next: set ${again.set} of ${again.of_sets}${again.side === "left" || again.side === "right" ? `, ${again.side}` : ""}, ${it.name}` : coming === null ? "Last one" : `Next: ${score.items[coming].name}, ${score.items[coming].dose_says}`);
  $("next-figure").hidden = !again && coming === null;
  if (again || coming !== null) $("next-figure").src = thumb(again ? s.item : coming);
  const others = owed(score, st.pos).filter(o => o.item !== s.item || o.side !== st.side).map(o => `${score.items[o.item].name}, ${o.side}`);
  write("owed", others.length ? "Still owed: " + others.join(" · ") : "");
  showClass(s);
  showFilm();
  ask(s);
}
// Of a class: everybody with what they do otherwise; one tap chooses who the next mark is about.
let member = "";
function showClass(s) {
  const all = data.class || [], box = $("class");
  box.hidden = !all.length;
  if (!all.length) return;
  box.replaceChildren(...all.map((m, n) => {
    const b = document.createElement("button"), own = m.items[s.item] || {}, name = document.createElement("b"), what = document.createElement("span"), img = document.createElement("img");
    b.type = "button";
    b.setAttribute("aria-pressed", String(member === m.id));
    name.textContent = m.name;
    const side = n && own.sides && st.side ? own.sides[st.side] : "";
    const cap = own.cap, resting = own.rests || cap && !cap.sets && !cap.reps && !cap.hold_s;
    what.textContent = resting ? "rests" : n === 0 || own.version === score.items[s.item].version ? own.dose || "" : `${own.name}, ${own.dose}`;
    if (!resting && cap) what.textContent = cap.reps ? `at most ${cap.reps} a set` : cap.hold_s ? `at most ${cap.hold_s} s a hold` : cap.sets === 1 ? "no further set" : `at most ${cap.sets} sets`;
    if (marks.some(x => x.kind === "end" && x.member === m.id)) what.textContent = "has ended";
    else if (cap) what.textContent += `: ${cap.why}`;
    if (!resting && own.surface !== score.items[s.item].surface) what.textContent += `, on the ${own.surface}`;
    if (side && own.version !== score.items[s.item].version) what.textContent += ". " + side;
    img.alt = "";
    if (!resting && own.short) what.textContent += `. ${own.short.replace(/\.$/, "")}`;
    img.src = `/figures/${own.version}.svg?thumb=1&surface=${own.surface}&build=${data.build}${own.ease ? `&ease=${own.ease}` : ""}`;
    b.append(img, name, what);
    b.onclick = () => { member = member === m.id ? "" : m.id; showClass(st.segment); };
    return b;
  }));
}
// What the score asks in a rest, and after work that is done by feel: never waited for.
let askedAt = -1;
function ask(s) {
  const before = score.segments[st.index - 1];
  if (askedAt === st.index || !leads()) return;
  const over = before && before.kind === "work" && before.item !== s.item ? before.item : s.kind === "move" || s.kind === "setup" ? (score.segments.slice(0, st.index).findLast(x => x.kind === "work") || {}).item : undefined;
  if (over !== undefined && ($("sheet").hidden || !staying) && (score.items[over].checks || []).length && checkAsked(over)) { askedAt = st.index; return; }
  if ((s.asks || []).includes("compare")) {
    askedAt = st.index;
    hint("Which side was tighter or weaker?", ["left", "right", "same"].map(v => [v, () => { mark("compare", { item: s.item, side: sideIn(s) || "none", value: v }); tell(`Compared: ${v}.`); }]));
  } else if (before && before.by_feel && (before.item !== s.item || before.set !== s.set)) {
    askedAt = st.index;
    hint(`${score.items[before.item].name}: did it change?`, [["yes", "yes"], ["a little", "little"], ["no", "no"]].map(([label, v]) => [label, () => { mark("changed", { item: before.item, side: sideIn(before) || "none", value: v }); quiet(); }]));
  }
}
const doing = { move: "to the next position", setup: "set up", rest: "rest", change: "change sides", reset: "one breath", finish: "coming up" };
const standing = () => st.countingIn ? "ready" : st.waiting ? "waits for go" : { paused: "paused", talk: showing !== null ? "shown slowly" : "talk", break: "break", done: "all done" }[st.state] || "";
function draw() {
  const s = st.segment, words = data.words[st.index];
  let number = st.number;
  if (st.waiting) number = "go";
  else if (number === null) number = s.kind === "work" ? "" : Math.max(0, Math.ceil(s.end - st.pos - 1e-6));
  write("count", number);
  write("label", standing() || words.shown || doing[s.kind] || "");
  if (s.steps && s.steps.length && st.step) {
    if ($("cue").textContent !== st.step.say) {
      write("cue", st.step.say);
      fitted($("cue"));
    }
    if ($("film").firstChild !== poseOf(st.step)) showFilm();
  }
  $("tide").style.transform = `scaleY(${st.breath === null ? 0 : (0.1 + 0.9 * st.breath).toFixed(3)})`;
  write("breath-word", s.breath === "in" || s.breath === "out" ? s.breath : "");
  const box = line.width, y = lineAt(data.line.points, st.pos);
  $("dot").style.transform = `translate(${(st.progress * box).toFixed(1)}px, ${((1 - y) * line.height).toFixed(1)}px)`;
  const rest = Math.max(0, Math.round(score.seconds - st.pos));
  write("clock", `${Math.floor(rest / 60)}:${String(rest % 60).padStart(2, "0")} left` + (st.late >= 60 ? `, ${Math.floor(st.late / 60)} min late` : ""));
  write("pause", st.state === "running" && !st.waiting ? "pause" : "go on");
  pose();
}

// The posture line is the progress: what was passed is drawn over the whole, the dot is now.
const line = { width: 1, height: 1 };
function measure() { const r = $("line").getBoundingClientRect(); line.width = r.width; line.height = r.height; }
function drawLine() {
  const path = pts => pts.map(([s, y], i) => `${i ? "L" : "M"}${(1000 * s / score.seconds).toFixed(1)} ${(60 * (1 - y)).toFixed(1)}`).join("");
  $("line-all").setAttribute("d", path(data.line.points));
  const before = data.line.points.filter(p => p[0] <= st.pos);
  before.push([st.pos, lineAt(data.line.points, st.pos)]);
  $("line-done").setAttribute("d", path(before));
}
addEventListener("resize", measure);

// Tones and the browser's own voice, each only when it is switched on; nothing sounds while somebody talks.
let audio, hush = false;
function tone(kind) {
  try {
    audio = audio || new AudioContext();
    const o = audio.createOscillator(), g = audio.createGain(), t = audio.currentTime;
    o.frequency.value = { start: 660, half: 520, last: 440, end: 880 }[kind];
    g.gain.setValueAtTime(0.0001, t);
    g.gain.exponentialRampToValueAtTime(0.15, t + 0.02);
    g.gain.exponentialRampToValueAtTime(0.0001, t + 0.22);
    o.connect(g).connect(audio.destination);
    o.start(t); o.stop(t + 0.25);
  } catch { /* no sound on this device: the session runs all the same */ }
}
function speak(text, number) {
  if (!window.speechSynthesis || hush) return;
  if (!number) speechSynthesis.cancel();
  else if (speechSynthesis.pending) return; // a number that comes late is worth nothing
  speechSynthesis.speak(new SpeechSynthesisUtterance(text));
}
function sound(from, to) {
  if (hush || st.state !== "running") return;
  for (const h of heard(score, data.words, from, to, likes)) if (h.tone) tone(h.tone); else speak(h.say, h.number);
}
let countedIn = 0;
function countIn() {
  if (!st.countingIn || st.number === countedIn) { if (!st.countingIn) countedIn = 0; return; }
  countedIn = st.number;
  if (likes.tones.last) tone("last");
  if (likes.numbers) speak(String(st.number), true);
}

// Frames: what each took is kept, for those who measure.
const frames = [];
function tick() {
  if (left) return;
  const began = performance.now();
  st = state(score, marks, now());
  if (st.pos > lastPos) {
    const gap = unseen(lastPos, st.pos);
    if (gap && shown >= 0 && leads()) mark("unseen", gap);
    if (!gap) sound(lastPos, st.pos);
  }
  lastPos = st.pos;
  countIn();
  if (st.index !== shown) { shown = st.index; show(); drawLine(); }
  draw();
  if (st.state === "done" && !closing) { closing = true; doneSheet(); }
  else if (st.state === "running" && closing) { closing = false; quiet(); } // gone back
  if (st.state === "ended") { finish(); return; }
  if (frames.push(performance.now() - began) > 4000) frames.splice(0, 2000);
  requestAnimationFrame(tick);
}
let closing = false;
window.restbend = { frames, position: () => st && st.pos, state: () => st && st.state, segment: () => shown, marks: () => marks, now: () => st, rev: () => score.rev, score: () => score }; // read by tests

// finish leaves only when everything is stored.
async function finish() {
  if (left) return;
  left = true;
  write("label", "ended");
  for (;;) {
    const waits = await drain(id, { after: seq });
    stored(waits);
    if (!waits) break;
    tell(`${waits} ${waits === 1 ? "entry is" : "entries are"} kept on this device until the line is back. This page goes on by itself.`, []);
    await new Promise(done => setTimeout(done, 2000));
  }
  go(`/teach/${id}/after`);
}
// go leaves this page; of two beside each other the whole window.
function go(to) { (beside ? window.parent : window).location.href = to; }

// The sheet at the lower edge: what was marked in words, what is asked, and Undo. It covers neither number nor side.
let sheetTimer = null, staying = false;
// hint is what nobody asked for: it never takes the place of a question that is still open.
function hint(text, buttons, stay = false) {
  if (!$("sheet").hidden && staying) return false;
  tell(text, buttons, stay);
  return true;
}
// A question that stays is drawn again when the session changes under it: it offers only what is left.
let question = null, turn = 0; // which thing is said: an answer that comes late takes no newer one's place
function stand(draw) { draw(); question = draw; }
function tell(text, buttons = null, stay = false, cls = "") {
  question = null;
  turn++;
  const sheet = $("sheet").cloneNode(false); // another sheet, so that nothing seems to move
  $("sheet").replaceWith(sheet);
  staying = stay;
  clearTimeout(sheetTimer);
  sheet.className = `t-sheet ${cls} ${stay ? "" : "passing"}`; // what passes by itself leaves the buttons and the class free
  const low = $("class").hidden ? document.querySelector(".t-foot") : $("class");
  sheet.style.setProperty("--foot", `${Math.max(0, Math.round(innerHeight - low.getBoundingClientRect().top))}px`);
  sheet.replaceChildren();
  for (const t of [].concat(text)) { if (!t) continue; const p = document.createElement("p"); p.textContent = (beside ? data.client + ": " : "") + t; sheet.append(p); }
  for (const [label, act, pressed] of buttons || []) {
    const b = document.createElement("button");
    b.type = "button"; b.textContent = label;
    if (pressed !== undefined) b.setAttribute("aria-pressed", String(pressed));
    b.onclick = () => act(b);
    sheet.append(b);
  }
  sheet.hidden = !text;
  if (!stay && text) sheetTimer = setTimeout(() => { sheet.hidden = true; }, 10000);
}
const quiet = () => { question = null; clearTimeout(sheetTimer); $("sheet").hidden = true; };
function urgent(acts) { // a sign that ends the session, on every device
  if (st && st.state === "running" && leads()) mark("pause");
  const who = (lastSign() || {}).member; // of a class one ends and is seen, the others go on when the instructor says so
  const end = who ? [`End for ${nameOf(who)} and refer`, () => { mark("end", { because: "warning-sign", item: st.segment.item, member: who }); member = ""; showClass(st.segment); tell(`${nameOf(who)} has ended and is seen first. The class waits.`, [["go on", resume]], true); checkSigns(); }] : ["End and refer", () => mark("end", { because: "warning-sign", item: st.segment.item })];
  tell((who ? [`${nameOf(who)}:`] : []).concat(acts), [end, ["It was marked by mistake", () => mistaken()]], true, "urgent");
}
// standing are the marks of those who have not ended; lastSign is the last of them that ends a session.
const notOver = () => { const over = new Set(marks.filter(m => m.kind === "end" && m.member).map(m => m.member)); return marks.filter(m => !m.member || !over.has(m.member)); };
const lastSign = () => ordered(notOver()).filter(m => signs([m], data.answers, Object.keys(data.acts)).length).at(-1);
// mistaken takes back a sign with everything that followed from it, whoever marked it, once the client was asked again;
// another that stands is said again.
function mistaken(sign = lastSign()) {
  if (!sign) { quiet(); checkSigns(); return; }
  tell(["Ask again: does it travel down a limb, is anything numb or weak, the chest, dizzy?"], [["Asked again: no sign", () => { quiet(); undo(rootOf(sign), "asked-again"); signsShown = ""; checkSigns(); }], ["It is a sign", () => { signsShown = ""; quiet(); checkSigns(); }]], true, "urgent");
}
// rootOf is the first mark of what was said; saidOf it is that with what was said of it later.
const rootOf = m => marks.find(k => k.key === m.of && k.kind === m.kind) || m;
const saidOf = m => marks.filter(k => k.key === m.key || k.of === m.key && k.kind === m.kind);
let signsShown = "";
function checkSigns() {
  const words = signs(notOver(), data.answers, Object.keys(data.acts));
  if (words.length && (words.join() !== signsShown || $("sheet").hidden)) { signsShown = words.join(); urgent(words.flatMap(w => data.acts[w])); }
  if (!words.length) signsShown = "";
}

// Undo: the last mark, by key for ten seconds, and each from the list until the session closes.
const undoKinds = ["form", "symptom", "warning", "felt", "change", "layer", "setting", "load", "helped", "compare", "note", "seek"];
const undoable = () => ordered(marks).filter(m => undoKinds.includes(m.kind) && m.device === device).at(-1);
function undo(m, why) {
  const all = saidOf(m), sign = ordered(all).find(k => signs([k], data.answers, Object.keys(data.acts)).length);
  if (sign && !why) { mistaken(sign); return; }
  const more = why ? { why } : {};
  for (const k of all) if (k !== m) mark("undo", { of: k.key, ...more });
  mark("undo", { of: m.key, ...more });
  st = state(score, marks, now());
  lastPos = st.pos;
  shown = -1;
  const text = `Taken back: ${wordsOf(m)}, with what followed from it.`;
  if (st.state === "paused") tell(text, [["Go on", resume]], true); else tell(text);
}
function undoLast() {
  const m = undoable();
  if (m && now() - Date.parse(m.at) / 1000 <= 10) undo(m); else tell("Nothing from the last ten seconds to take back. Older marks stand under more, what was marked.");
}
const names = { layer: "up a layer", setting: "setting tried", form: "form lost", symptom: "symptom", warning: "warning", felt: "felt", load: "setting", helped: "hands on", compare: "compared", note: "note", end: "ended", seek: "moved" };
function wordsOf(m) {
  const it = m.item !== undefined && m.item !== null ? score.items[m.item].name : "";
  const what = m.kind === "change" ? m.what : m.kind === "felt" ? "felt " + [].concat(m.felt).join(", ") + (m.pain !== undefined ? " " + m.pain : "") : m.kind === "seek" ? { back: "back", skip: "forward", again: "again" }[m.why] || "moved" : names[m.kind] || m.kind;
  return what + (m.rep ? ` at ${m.rep}` : "") + (m.fault ? `, ${m.fault.replaceAll("-", " ")}` : "") + (it ? `, ${it}` : "") + (m.side === "left" || m.side === "right" ? ` ${m.side}` : "");
}

const seek = (to, why) => { mark("seek", { to: Math.round(1000 * to) / 1000, why }); lastPos = to; shown = -1; };
const at3 = v => Math.round(1000 * v) / 1000;
const does = {
  go() {
    if (st.state === "done") { mark("end", { because: "done" }); return; }
    if (st.state !== "running") { resume(); return; }
    const s = st.segment;
    if (st.waiting) { mark("go"); return; }
    if (s.wait && st.mode === "led") { mark("go", { to: s.end }); lastPos = s.end; return; }
    seek(s.kind === "work" ? setEnd(score, st.pos) : s.end, "skip");
  },
  back() {
    const start = setStart(score, st.pos);
    seek(st.pos - start > 2 || start === 0 ? start : setStart(score, start - 0.001), "back");
  },
  again() { // the set that is under way, or the last one
    let pos = st.pos;
    if (st.segment.kind !== "work") { const before = score.segments.slice(0, st.index).findLast(s => s.kind === "work"); if (!before) return; pos = before.end - 0.001; }
    seek(setStart(score, pos), "again");
    tell("Again: this set from its start.");
  },
  pause() { if (st.waiting) mark("go"); else if (st.state === "running") mark("pause"); else resume(); },
  talk() { mark("talk", { on: st.state !== "talk" }); if (window.speechSynthesis) speechSynthesis.cancel(); },
  break() { mark("break", { on: st.state !== "break" }); },
  show() { if (st.state === "talk") { resume(); return; } showing = now(); mark("talk", { on: true, why: "show" }); },
  tap() { mark("tap", { unit: (st.segment.count || {}).unit || "reps" }); },
  form() {
    const s = st.segment, m = mark("form", { ...here(), s: at3(st.into), ...(s.kind === "work" ? { to: setEnd(score, st.pos) } : {}) });
    lastPos = setEnd(score, st.pos);
    const it = score.items[m.item], faults = it.faults || [];
    tell(`${s.kind === "setup" ? "A fault while setting up" : "Form lost"}${m.rep ? ` at ${m.rep}` : ""}${it.says.shaking ? ". " + it.says.shaking.replace(/\.$/, "") : ""}. Which fault?`, [...faults.map(f => [f.say, () => { mark("fault", { of: m.key, fault: f.code }); tell(`Form lost: ${f.say}.`, [["Undo", () => undo(m)]]); }]), ["Undo", () => undo(m)]]);
  },
  symptom() {
    const m = mark("symptom", { ...here(), s: second() });
    if (st.state === "running") mark("pause");
    askSymptom(m, { pain: undefined, where: "" });
  },
  pain() { askPain(here()); },
  felt() {
    const at = here();
    tell(`${score.items[at.item].name}: what is felt?`, [...data.felt.map(w => [w.replaceAll("-", " "), () => { const m = mark("felt", { ...at, felt: [w] }); if (data.acts[w]) urgent(data.acts[w]); else tell(`Felt: ${w.replaceAll("-", " ")}.`, [["Undo", () => undo(m)]]); }]), ["not now", quiet]], true);
  },
  warning() { const m = mark("warning", { ...here(), s: second() }); tell(`Warning in ${score.items[m.item].name}${whenOf(m)}: not more than that today and next time.`, [["Undo", () => undo(m)]]); },
  hard() {
    if (member) { tell(`Too hard for ${nameOf(member)}. In a class they rest, or are helped.`, [["rests until the next exercise", does.leave], ["hands on", does.hands], ["noted", () => { const m = mark("note", { ...here(), member, text: `too hard: ${score.items[about().item].name}` }); tell(`Too hard for ${nameOf(member)}: noted.`, [["Undo", () => undo(m)]]); }]]); return; }
    offer("hard", "Too hard. What instead?", "Nothing easier suits here: leave it, or rest.", () => { const m = mark("change", { ...here(), what: "ease" }); tell("Eased by hand: noted.", [["Undo", () => undo(m)]]); });
  },
  easy() { offer("easy", "Too easy. Noted for next time; a trial is possible:", "", null, why => { const m = mark("note", { text: `too easy: ${score.items[about().item].name}` }); tell(`Too easy: noted for next time.${why ? " " + capital(why) + "." : ""}`, [["Undo", () => undo(m)]]); }); },
  next() { offer("next", "Which comes next?", "Nothing else is still to come."); },
  later() { change("later"); },
  other() { change("other-side"); },
  moreSide() { change("more"); },
  add() { $("search").value = ""; $("adding").showModal(); search(); },
  leave() { leave(here()); },
  async skip() {
    const at = here();
    if (member) { leave(at); return; }
    await answered();
    const name = score.items[at.item].name, own = score.segments.filter(x => x.item === at.item && x.kind !== "finish");
    if (over(at.item)) { tell(`${name} is over already.`); return; }
    const m = mark("change", { ...at, what: "skip", to: own.at(-1).end });
    lastPos = own.at(-1).end;
    tell(`Skipped: ${name}.`, [["Undo", () => undo(m)]]);
  },
  undo: undoLast,
  layer() { // up a layer: the same set-up, the next rung
    const now = st.segment, next = score.segments.find((s, i) => i > st.index && s.kind === "work" && s.item === now.item && s.layer && s.layer !== now.layer);
    if (!next) { tell("There is no further layer here."); return; }
    mark("layer", { ...here(), to: next.layer });
    seek(next.start, "skip");
    tell(`Up a layer: ${next.layer.replaceAll("-", " ")}.`);
  },
  hands() { const at = here(); tell("Hands on, how?", [["guided", "guided"], ["held", "held"], ["anchored", "anchored"]].map(([label, how]) => [label, () => { const m = mark("helped", { ...at, how }); tell(`Hands on: ${how}. The set counts as helped.`, [["Undo", () => undo(m)]]); }])); },
  setting() { const at = here(); askSetting({ ...loadOf(at.item) }, "", at); },
  set() { change("repeat"); },
  minute() { change("minute"); },
  breath() { taps.length = 0; write("breath-said", ""); $("breathing").showModal(); },
  end() { $("ending").showModal(); },
  more() { $("more").showModal(); },
  likes() { $("likes").showModal(); },
  log() { listMarks(); $("marked").showModal(); },
  full() { if (document.fullscreenElement) document.exitFullscreen(); else document.documentElement.requestFullscreen().catch(() => {}); },
};
// In a class what happens to one is asked of one: whose it is, before anything is marked.
const nameOf = who => ((data.class || []).find(m => m.id === who) || {}).name || data.client;
const stopFrom = () => ((data.class || []).find(m => m.id === member) || data).stop_from;
for (const what of ["form", "symptom", "pain", "felt", "warning", "hard", "hands", "setting"]) {
  const plain = does[what];
  does[what] = () => {
    if (member || !(data.class || []).length) { plain(); return; }
    if (what === "symptom" && st.state === "running") mark("pause"); // the count waits for the answer
    const at = here();
    tell("Whose?", data.class.map(m => [m.name, () => { member = m.id; showClass(st.segment); bound = at; try { plain(); } finally { bound = null; } }]), true);
  };
}
function resume() {
  showing = null;
  if (!$("sheet").classList.contains("urgent")) quiet();
  if (st.state === "talk") mark("talk", { on: false }); else if (st.state === "break") mark("break", { on: false }); else mark("resume");
}

// whenOf says where in an exercise something was marked.
const whenOf = m => m.set > 1 ? `, set ${m.set}` : m.rep > 0 ? ` at ${m.rep}` : "";
// over tells that an exercise was left, or has come to its end: nothing of it is left to leave.
const over = item => !remains(score, st.pos, item);
// leave leaves the exercise that a question or a mark is about, and no other; who leaves one of a class rests until the next.
async function leave(asked) {
  const { item, side, set, rep } = asked, at = { item, side, set, rep };
  const name = score.items[at.item].name;
  if (member) {
    const m = mark("change", { ...at, what: "skip" });
    tell(`${nameOf(member)} rests until the next exercise.`, [["Undo", () => undo(m)]]);
    if (st.state !== "running") resume();
    return;
  }
  await answered();
  if (over(at.item)) { tell(`${name} is left already.`, [["Go on", resume], ["End here", does.end]], true); return; }
  if (about().item !== at.item) { change("leave", { item: at.item }); return; } // of a side block: the other one is under way
  const own = score.segments.filter(x => x.item === at.item && x.kind !== "finish"), between = score.segments.some(x => x.kind === "work" && x.item !== at.item && x.start >= st.pos && x.end <= own.at(-1).end);
  if (between) { change("leave", { item: at.item }); return; }
  const m = mark("change", { ...at, what: "skip", to: own.at(-1).end });
  lastPos = own.at(-1).end;
  tell(`Left: ${name}.`, [["Undo", () => undo(m)]]);
  if (st.state !== "running") resume();
}
// stopping is asked when an exercise must stop: leave it, where it is not left already.
function stopping(m, text) {
  stand(() => {
    const name = score.items[m.item].name, said = follows || `${name} is left.`, undoing = ["Undo", () => undo(rootOf(m))];
    if (over(m.item) && !member) { follows = ""; tell([text, said], [["Go on", resume], ["End here", does.end], undoing], true); } else tell(`${text} Stop ${name}, and find a comfortable position.`, [["Leave this exercise", () => leave(m)], ["End here", does.end], undoing], true);
  });
}
// What a symptom asks at once: how much, where, and the four answers that may end the session.
function askSymptom(first, said) {
  const more = kind => { const m = mark("symptom", { item: first.item, side: first.side, set: first.set, rep: first.rep, s: first.s, of: first.key, pain: said.pain, where: said.where, ...kind }); return m; };
  const stops = n => `Pain ${n}: this client stops an exercise from ${stopFrom()}.`;
  stand(() => {
    const name = score.items[first.item].name, gone = over(first.item) && !member;
    const yes = data.asks.map(([k, label]) => [label, () => { more({ [k]: true }); const w = data.answers[k]; if (data.acts[w]) urgent(data.acts[w]); else askSymptom(first, said); }]);
    const numbers = [...Array(11).keys()].map(n => [String(n), () => { said.pain = n; const m = more({}); if (n >= stopFrom()) stopping(m, stops(n)); else askSymptom(first, said); }, said.pain === n]);
    const places = data.places.map(w => [w.replaceAll("-", " "), () => { said.where = w; more({}); askSymptom(first, said); }, said.where === w]);
    const when = first.set || first.rep ? whenOf(first) : ", before it began";
    const text = gone ? `${follows || `${name} is left.`} The count waits. Does the symptom do any of this?` : `Symptom in ${name}${when}. The count waits. Does it do any of this?`;
    if (gone) follows = "";
    const out = gone ? [["Go on", resume], ["End here", does.end]] : [["None of it: go on", resume], ["Leave this exercise", () => leave(first)]];
    tell(text, [...yes, ...out, ["Undo", () => undo(first)], ...numbers, ...places], true); // what leads on stands where a phone shows it
  });
}
let painWhere = "", painAt = null; // where is asked, never taken for granted
function askPain(at, where = "") {
  painAt = at;
  painWhere = where;
  tell(`${score.items[at.item].name}: pain, how much? Keys 0 to 9.`, [...[...Array(11).keys()].map(n => [String(n), () => pain(n)]), ...data.places.map(w => [w.replaceAll("-", " "), () => askPain(at, w), painWhere === w]), ["not now", quiet]], true, "asks-pain");
}
function pain(n) {
  const m = mark("felt", { ...painAt, felt: ["pain"], pain: n, where: painWhere || undefined });
  if (n >= stopFrom()) { if (st.state === "running") mark("pause"); stopping(m, `Pain ${n}: this client stops an exercise from ${stopFrom()}.`); } else tell(`Pain ${n}${painWhere ? `, ${painWhere.replaceAll("-", " ")}` : ""}, in ${score.items[m.item].name}.`, [["Undo", () => undo(m)]]);
}
// The settings an exercise is done with: the last ones stand there, one touch changes one.
const loadOf = item => (ordered(marks).findLast(m => m.kind === "load" && m.item === item) || {}).load || score.items[item].load || {};
function loadWords(l) {
  const out = [];
  if (l.surface_cm) out.push(`${l.surface_cm} cm high`);
  if (l.band) out.push(`band ${l.band}`);
  if (l.anchor_cm) out.push(`${l.anchor_cm} cm from the anchor`);
  if (l.spring) out.push(`spring ${l.spring}`);
  if (l.weight_kg) out.push(`${l.weight_kg} kg`);
  if (l.pad_level) out.push(`pad level ${l.pad_level}`);
  if (l.pad_offset_cm) out.push(`${l.pad_offset_cm} cm along the pad`);
  if (l.help && l.help.length) out.push(`helped by ${l.help.join(", ")}`);
  return out.join(", ");
}
// A search: a few slow repetitions at a setting, clean or shaky, then one small move; it ends with the best clean one.
function askSetting(l, said, at) {
  const all = data.settings[at.item] || [];
  if (!all.length) { tell(`${score.items[at.item].name} has nothing to set.`); return; }
  const moved = (s, v) => () => { const next = { ...l, [s.key]: v }; if (s.resets) delete next[s.resets]; if (!v || v.length === 0) delete next[s.key]; mark("load", { ...at, load: next }); askSetting(next, "", at); };
  const moves = all.flatMap(s => {
    if (s.many) return s.words.map(w => { const has = (l[s.key] || []).includes(w); return [`help: ${w}`, moved(s, has ? l[s.key].filter(x => x !== w) : [...(l[s.key] || []), w]), has]; });
    if (s.words) return s.words.map(w => [`${s.name} ${w}`, moved(s, w === "none" ? "" : w), (l[s.key] || "none") === w]);
    return s.steps.flatMap(by => [[-by, s.less], [by, s.more]].map(([d, label]) => [d, label])).sort((a, b) => a[0] - b[0]).map(([d, label]) => {
      const v = Math.round(10 * Math.min(s.most, Math.max(s.least, (l[s.key] || s.start || 0) + d))) / 10;
      return [`${s.name}${s.unit ? ` ${Math.abs(d)} ${s.unit}` : ""} ${label}`, moved(s, v)];
    });
  });
  const tried = clean => () => { const m = mark("setting", { ...at, load: { ...l }, clean }); askSetting(l, clean ? `Clean at ${loadWords(l)}: kept.` : `Shaky at ${loadWords(l)}.`, at); return m; };
  const drawn = all.find(s => s.start && !l[s.key]);
  tell([said, `Setting: ${loadWords(l) || "none recorded"}.${drawn ? ` It is drawn ${drawn.start} ${drawn.unit} high: moves begin there.` : ""} One to three slow ones, then one small move.`], [...moves, ...(loadWords(l) ? [["clean", tried(true)], ["shaky", tried(false)]] : []), ["enough for today", () => { const best = ordered(marks).findLast(m => m.kind === "setting" && m.clean && m.item === at.item); tell(best ? `Next time begins at ${loadWords(best.load) || "the same"}: the last clean one.` : "No setting was clean: the last one stays."); }]], true);
}
function doneSheet() {
  const close = known => () => { if (known !== undefined) mark("check", { check: "from_memory", value: known }); mark("end", { because: "done" }); };
  if (data.asks_memory) tell("All done. Were the preparation and the finish done from memory?", [["From memory: close", close(true)], ["Not yet: close", close(false)]], true);
  else tell("All done. Was somebody there to the end?", [["Close the session", close()]], true);
}

// What can be done about it is asked of the server, and shown with its figure; without the line it is noted.
async function offer(what, title, none, offline, empty) {
  const mine = turn;
  try {
    const r = await fetch(`/teach/${id}/offers?what=${what}&pos=${at3(st.pos)}`, { headers: { Accept: "application/json" } }), answer = await r.json();
    if (turn !== mine && staying && !$("sheet").hidden) return;
    if (!r.ok) { tell(answer.error); return; }
    if (empty) empty(answer.why);
    if (!answer.offers.length) { if (!empty) tell(none); return; }
    tell(title, [["close", quiet]], true);
    $("sheet").append(offers(answer.offers));
  } catch { if (offline) offline(); else tell("This needs the line: the session goes on as it was."); }
}
function offers(list, then) {
  const box = document.createElement("div");
  box.className = "t-offers";
  for (const o of list) {
    const b = document.createElement("button"), img = document.createElement("img"), small = document.createElement("small");
    b.type = "button";
    if (o.version) { img.src = `/figures/${o.version}.svg?thumb=1&surface=${o.surface || "mat"}${o.ease ? "&ease=" + o.ease : ""}&build=${data.build}`; img.alt = ""; b.append(img); }
    b.append(o.say);
    small.textContent = o.note || "";
    b.append(small);
    b.onclick = () => { if (then) then(); change(o.what, { item: o.item >= 0 ? o.item : undefined, version: o.version, ease: o.ease, surface: o.surface }); };
    box.append(b);
  }
  return box;
}
let searching = null;
function search() {
  clearTimeout(searching);
  searching = setTimeout(async () => {
    try {
      const r = await fetch(`/teach/${id}/offers?what=add&pos=${at3(st.pos)}&q=${encodeURIComponent($("search").value)}`, { headers: { Accept: "application/json" } }), answer = await r.json();
      $("found").replaceChildren(r.ok ? offers(answer.offers, () => $("adding").close()) : answer.error);
    } catch { $("found").replaceChildren("This needs the line."); }
  }, 150);
}
$("search").oninput = search;
// When the hour is late, at half and five minutes before its end, ways to end in time are offered, never taken.
const lateAt = new Set();
function lateness() {
  const mark2 = st.pos > score.seconds - 300 ? "end" : st.pos > score.seconds / 2 ? "half" : "";
  if (!mark2 || st.late < 90 || lateAt.has(mark2) || !leads() || !$("sheet").hidden) return;
  lateAt.add(mark2);
  fetch(`/teach/${id}/offers?what=late&pos=${at3(st.pos)}`, { headers: { Accept: "application/json" } }).then(r => r.json()).then(answer => {
    if (!answer.offers || !answer.offers.length) return;
    hint(`${Math.round(st.late / 60)} min late. To end in time:`, [...answer.offers.map(o => [o.say, () => change(o.what, { item: o.item >= 0 ? o.item : undefined })]), ["run over", quiet]]);
  }).catch(() => {});
}
let follows = "";
const askedChecks = new Set();
function checkAsked(item) { // what is compared in the session: taken where the plan has it
  const it = score.items[item];
  for (const check of it.checks || []) {
    if (askedChecks.has(check) || marks.some(m => m.kind === "check" && m.check === check)) continue;
    askedChecks.add(check);
    const done = value => change("check", { check, value });
    if (check === "clock_hours") askHours(done, it.name);
    else tell(`${it.name}: ${check === "sij_side" ? "which side gives less under the hand?" : "which turn is tighter?"}`, [["left", () => done("left")], ["right", () => done("right")], ["even", () => done(check === "sij_side" ? "even" : "")], ["not now", quiet]], true);
    return true;
  }
  return false;
}
function askHours(done, name) {
  const weak = new Set(), dial = document.createElement("div");
  dial.className = "t-dial";
  tell(`${name}: which hours judder? Tap them on the dial: 12 towards the head.`, [["that is all", () => done([...weak])], ["not now", quiet]], true);
  for (let h = 1; h <= 12; h++) {
    const b = document.createElement("button");
    b.type = "button"; b.textContent = h;
    b.style.left = `${50 + 40 * Math.sin(h * Math.PI / 6)}%`; b.style.top = `${50 - 40 * Math.cos(h * Math.PI / 6)}%`;
    b.setAttribute("aria-pressed", "false");
    b.onclick = () => { if (!weak.delete(h)) weak.add(h); b.setAttribute("aria-pressed", String(weak.has(h))); };
    dial.append(b);
  }
  $("sheet").append(dial);
}

// What changes the score is worked out on the server: a new revision, with what ran kept.
async function change(what, more) {
  if ($("more").open) $("more").close();
  const rev = score.rev;
  try {
    const r = await fetch(`/teach/${id}/change`, { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" }, body: JSON.stringify({ key: uuid(), device, at: new Date(Math.round(now() * 1000)).toISOString(), rev: score.rev, pos: at3(st.pos), what, ...more }) });
    const answer = await r.json();
    if (!r.ok) { tell(answer.error); return; }
    await send();
    await renew();
    tell(answer.say, answer.rev > rev ? [["Undo", () => change("undo")]] : null);
  } catch { tell("This needs the line: the session goes on as it was."); }
}
function renew() {
  const made = (renewing = redraw()).finally(() => { if (renewing === made) renewing = null; });
  return renewing = made;
}
async function redraw() {
  const d = await fetched();
  data = d; score = d.score;
  for (const m of d.marks) if (!marks.some(k => k.key === m.key)) marks.push(m);
  marks = [...marks];
  shown = -1;
  st = state(score, marks, now());
  if (question && !$("sheet").hidden) { const draw = question; stand(draw); }
  loadAll();
}

const taps = [];
$("breath-tap").onclick = () => {
  taps.push(now());
  if (taps.length < 4) { write("breath-said", `${taps.length} of 4`); return; }
  const rate = Math.round(10 * 180 / (taps.at(-1) - taps.at(-4))) / 10;
  write("breath-said", `${rate} breaths a minute`);
  if (rate < 3 || rate > 40) { taps.length = 0; write("breath-said", `${rate} breaths a minute cannot be: tap once at the start of each in-breath.`); return; }
  $("breathing").close();
  change("breaths", { per_minute: rate });
};

function listMarks() {
  const list = ordered(marks).filter(m => undoKinds.includes(m.kind)).reverse();
  $("marks-list").replaceChildren(...list.map(m => {
    const li = document.createElement("li"), b = document.createElement("button");
    li.append(`${new Date(m.at).toLocaleTimeString()} ${wordsOf(m)}`);
    b.type = "button"; b.textContent = "Undo";
    b.onclick = () => { undo(m); listMarks(); };
    li.append(b);
    return li;
  }));
  if (!list.length) { const li = document.createElement("li"); li.textContent = "Nothing yet."; $("marks-list").append(li); }
}

// Keys: letters can be changed or switched off.
const letters = { tap: "c", talk: "t", break: "b", show: "w", again: "a", form: "f", symptom: "s", pain: "p", felt: "v", hard: "e", skip: "k", undo: "z", warning: "r", easy: "y", next: "i", later: "j", add: "d", more: "n", hands: "h", setting: "g", set: "o", minute: "m", end: "x", log: "l", full: "u", likes: "?" };
const letterNames = { tap: "count one", talk: "talk", break: "break", show: "show slowly", again: "again", form: "form lost", symptom: "symptom", pain: "pain", felt: "felt", hard: "too hard", skip: "skip", undo: "undo", warning: "warning", easy: "too easy", next: "do next", later: "do later", add: "add an exercise", more: "more", hands: "hands on", setting: "setting", set: "one more set", minute: "a minute more", end: "end here", log: "what was marked", full: "full screen", likes: "this list" };
const keyOf = what => likes.keys[what] || letters[what];
let held = 0, learning = null;
function allowed(what) { return st && !left && (leads() || what === "symptom" || what === "likes" || what === "full"); }
function press(what) {
  if (!allowed(what)) { following(); return; }
  if (!["more", "likes", "log"].includes(what) && $("more").open) $("more").close();
  does[what]();
}
function following() { tell("Led on another device.", [["Take over here", () => { mark("here"); quiet(); }]], true); }
// What is pressed is about this moment, not about the last picture: a slow device draws late.
for (const kind of ["keydown", "click"]) document.addEventListener(kind, () => { if (st && !left) st = state(score, marks, now()); }, true);
const beside = window.parent !== window;
document.body.classList.toggle("beside", beside); // two clients beside each other: this player is one of two
document.addEventListener("keydown", e => {
  if (beside && e.key === "F8") { e.preventDefault(); window.parent.postMessage("other", location.origin); return; }
  if (e.ctrlKey || e.metaKey || e.altKey || !st) return;
  if (learning) { e.preventDefault(); learn(e.key); return; }
  if (/^(SELECT|INPUT|TEXTAREA)$/.test(e.target.tagName) || document.querySelector("dialog[open]")) return;
  const k = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  if (k === "q") { hush = true; if (window.speechSynthesis) speechSynthesis.cancel(); return; }
  if (k === "PageDown" || k === "MediaTrackNext") { e.preventDefault(); if (!e.repeat) held = now(); else if (held && now() - held > 0.8) { held = 0; press("pause"); } return; }
  if (e.repeat) return;
  if ($("sheet").classList.contains("asks-pain") && !$("sheet").hidden && /^[0-9]$/.test(k)) { pain(+k); return; }
  if (k === " ") { if (e.target.tagName === "BUTTON") return; e.preventDefault(); press("pause"); return; }
  if (k === "ArrowRight") { press("go"); return; }
  if (k === "ArrowLeft") { press("back"); return; }
  if (k === "PageUp" || k === "MediaTrackPrevious") { e.preventDefault(); press("again"); return; }
  if (likes.keys_off) return;
  for (const what of Object.keys(letters)) if (keyOf(what) === k) { press(what); return; }
});
if (beside) document.addEventListener("pointerdown", () => window.parent.postMessage("here", location.origin));
document.addEventListener("keyup", e => {
  if (e.key === "q") hush = false;
  if ((e.key === "PageDown" || e.key === "MediaTrackNext") && held) { held = 0; if (!document.querySelector("dialog[open]")) press("go"); }
});
for (const b of document.querySelectorAll("[data-do]")) b.onclick = () => press(b.dataset.do);
for (const b of document.querySelectorAll("[data-because]")) b.onclick = () => { $("ending").close(); mark("end", { because: b.dataset.because, item: st.segment.item, side: st.logSide || "none" }); };
if (navigator.mediaSession) for (const [action, what] of [["nexttrack", "go"], ["previoustrack", "again"], ["pause", "pause"], ["play", "pause"]]) try { navigator.mediaSession.setActionHandler(action, () => press(what)); } catch { /* not on this device */ }

// How somebody likes it is kept with their account.
function like() {
  const body = { ...likes };
  fetch("/preferences", { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" }, body: JSON.stringify(body) }).catch(() => {});
  liked();
}
function liked() {
  for (const b of document.querySelectorAll("[data-tone]")) b.checked = !!likes.tones[b.dataset.tone];
  for (const b of document.querySelectorAll("[data-like]")) b.checked = b.dataset.like === "flowing" ? !!st && st.mode === "flowing" : b.dataset.like === "keys_on" ? !likes.keys_off : !!likes[b.dataset.like];
  $("words").value = likes.words; $("counting").value = likes.count; $("hand").value = likes.hand;
  document.body.classList.toggle("hand-left", likes.hand === "left");
  document.body.classList.toggle("hand-right", likes.hand === "right");
  $("key-list").replaceChildren(...Object.keys(letters).map(what => { const li = document.createElement("li"), b = document.createElement("button"), k = document.createElement("kbd"); b.type = "button"; b.append(letterNames[what] + " "); k.textContent = learning === what ? "press a key" : keyOf(what); b.append(k); b.onclick = () => { learning = what; liked(); }; li.append(b); return li; }));
  measure();
}
function learn(key) {
  const k = key.length === 1 ? key.toLowerCase() : "";
  if (k && k !== " " && k !== "q" && !/[0-9]/.test(k)) {
    const other = Object.keys(letters).find(w => w !== learning && keyOf(w) === k);
    if (other) likes.keys[other] = keyOf(learning);
    likes.keys[learning] = k;
  }
  learning = null;
  like();
}
for (const b of document.querySelectorAll("[data-tone]")) b.onchange = () => { likes.tones[b.dataset.tone] = b.checked; like(); };
for (const b of document.querySelectorAll("[data-like]")) b.onchange = () => {
  if (b.dataset.like === "flowing") { mode(b.checked ? "flowing" : "led"); return; } // this session alone
  else if (b.dataset.like === "keys_on") likes.keys_off = !b.checked;
  else likes[b.dataset.like] = b.checked;
  like(); awake();
};
function mode(value) { if (st && st.mode !== value) mark("mode", { mode: value }); }
$("words").onchange = e => { likes.words = e.target.value; like(); renew(); };
$("counting").onchange = e => { likes.count = e.target.value; like(); renew(); };
$("hand").onchange = e => { likes.hand = e.target.value; like(); };
const every = on => { for (const t of Object.keys(likes.tones)) likes.tones[t] = on; likes.voice = likes.numbers = on; };
$("eyes-shut").onclick = () => { every(true); likes.words = "full"; like(); renew(); };
$("silent").onclick = () => { every(false); if (window.speechSynthesis) speechSynthesis.cancel(); like(); };

// The screen stays awake while a session runs.
let lock = null;
async function awake() { try { if (navigator.wakeLock && document.visibilityState === "visible" && likes.awake) lock = await navigator.wakeLock.request("screen"); else if (lock) { lock.release(); lock = null; } } catch { /* not granted: the session runs all the same */ } }
document.addEventListener("visibilitychange", awake);
addEventListener("pagehide", () => { if (waiting(id).length) drain(id, { after: seq }); });

const fetched = () => fetch(`/teach/${id}/data?words=${likes.words}&count=${likes.count}`, { headers: { Accept: "application/json" } }).then(r => { if (!r.ok) throw new Error(r.status); return r.json(); });
async function open() {
  let d = await fetched();
  offset = Date.parse(d.now) - Date.now();
  offset = Math.abs(offset) > 2000 ? offset / 1000 : 0; // this device's own time, unless it is wrong
  const was = likes.words + likes.count;
  Object.assign(likes, d.likes, { tones: { ...likes.tones, ...(d.likes.tones || {}) }, keys: d.likes.keys || {} });
  if (likes.words + likes.count !== was) d = await fetched();
  data = d; score = d.score; seq = d.seq;
  if (d.ended) { go(`/teach/${id}/after`); return; }
  const keys = new Set(d.marks.map(m => m.key));
  marks = [...d.marks, ...waiting(id).filter(m => !keys.has(m.key))];
  liked();
  await loadAll(true);
  if (!marks.some(m => m.kind === "start")) { st = null; mark("start", { pain: d.pain_start ?? undefined, clear: true, mode: score.mode }); }
  st = state(score, marks, now());
  lastPos = st.pos;
  const r = ordered(marks).filter(m => m.kind === "end" && !m.member);
  if (r.length) { send(); finish(); return; }
  liked();
  stored(waiting(id).length);
  send(); awake(); checkSigns();
  if (!leads()) following();
  measure();
  setTimeout(listen, 2000);
  tick();
}
open().catch(e => { write("name", "The session could not be loaded. Reload this page; nothing is lost."); console.warn(e); });
setInterval(() => { if (!st || left) return; checkSigns(); lateness(); if (follows && !["asks-pain", "urgent"].some(c => $("sheet").classList.contains(c))) { const p = document.createElement("p"); p.textContent = follows; follows = ""; $("sheet").prepend(p); $("sheet").hidden = false; } }, 1000);
