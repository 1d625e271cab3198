// The player: draws the score, and nothing else. score.js tells from marks and the time where the session is;
// this page keeps the marks and the log entries until the server has them, and shows what the state says.
import { load } from "/static/film.js";
import { said, sounds, state, unseen } from "/static/score.js";

const id = document.body.dataset.session;
const $ = n => document.getElementById(n);
const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
const marksKey = "marks " + id, queueKey = "queue " + id, placeKey = "place " + id;
const read = (key, other) => { try { return JSON.parse(localStorage.getItem(key)) ?? other; } catch { return other; } };
const keep = (key, value) => localStorage.setItem(key, JSON.stringify(value));
const json = (url, body) => fetch(url, { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" }, body: JSON.stringify(body) });
const uuid = () => crypto.randomUUID ? crypto.randomUUID() : Date.now() + "-" + Math.random();
const device = read("device", null) || (() => { const d = uuid(); keep("device", d); return d; })();
const likes = Object.assign({ sound: false, voice: false, mode: "led", words: "full" }, read("teaching", {})); // remembered on this device
const now = () => Date.now() / 1000;

let data, score, marks = [], st, shown = -1, lastPos = 0, films = new Map(), film = null, sending = false, left = false;
let counted = read("counted " + id, {}), logged = new Set(), ends = new Map(), lasts = new Set();

// Entries of the log wait in the browser until the server has acknowledged them.
const queue = () => read(queueKey, []);
function log(entry, at) {
  const s = at || st.segment, it = score.items[s.item];
  const side = it.side === "alternate" ? "alternate" : s.side; // in turn is one thing in the log
  keep(queueKey, queue().concat(Object.assign({ key: uuid(), item: s.item, side, rep: s.kind === "work" ? s.rep : 0, s: Math.round(into()) }, entry)));
  flush();
}
// into is how long the hold, or the repetition, has lasted.
function into() {
  const s = st.segment;
  if (s.phase === "hold") return st.pos - s.start;
  const first = score.segments.find(x => x.kind === s.kind && x.item === s.item && x.set === s.set && x.rep === s.rep && x.side === s.side);
  return st.pos - (first || s).start;
}
async function flush() {
  if (sending) return;
  sending = true;
  try {
    for (let q = queue(); q.length; q = queue()) {
      const r = await json(`/teach/${id}/entries`, q[0]);
      if (!r.ok && r.status !== 422 && r.status !== 400) throw new Error(r.status);
      if (r.ok) { const { do: todo } = await r.json(); if (todo && todo.length) { mark("pause"); banner(todo.join(" ")); } }
      keep(queueKey, queue().slice(1));
    }
    $("saved").textContent = "saved";
  } catch {
    $("saved").textContent = "kept on this device, sending again";
    setTimeout(flush, 3000);
  } finally { sending = false; }
}

// A mark moves the clock; the last score and all marks are enough to be at the same second anywhere.
function mark(kind, more) {
  marks.push(Object.assign({ key: uuid(), device, at: new Date(Date.now()).toISOString(), rev: score.rev, pos: Math.round(1000 * (st ? st.pos : 0)) / 1000, kind }, more));
  keep(marksKey, marks);
  json(`/teach/${id}/state`, { segment: Math.max(0, shown), mode: likes.mode, marks }).catch(() => {});
}
const seek = (to, why) => { mark("seek", { to: Math.round(1000 * to) / 1000, why }); lastPos = to; };

// What was done on one side is counted as its repetitions run through, and logged when the side is over.
const keyOf = s => s.item + " " + (score.items[s.item].side === "alternate" ? "alternate" : s.side);
function count(from, to) {
  for (const s of score.segments) {
    if (s.end <= from) continue;
    if (s.end > to) break;
    if (s.kind !== "work") continue;
    const c = counted[keyOf(s)] = counted[keyOf(s)] || {};
    if (lasts.has(s) && !s.extra) c[`${s.set}/${s.rep}/${s.side}`] = s.set;
    keep("counted " + id, counted);
  }
}
// laid notes what does not change: where each side ends, and each repetition.
function laid() {
  const reps = new Map();
  for (const s of score.segments) if (s.kind === "work") { ends.set(keyOf(s), s); reps.set(`${s.item}/${s.set}/${s.rep}/${s.side}/${!!s.extra}`, s); }
  lasts = new Set(reps.values());
}
function leave(pos) {
  for (const [key, s] of ends) {
    if (s.end > pos + 1e-6 || logged.has(key) || !counted[key]) continue;
    logged.add(key);
    const it = score.items[s.item], own = it.dose_left && s.side !== "none" ? (s.side === "left" ? it.dose_left : it.dose_right) : it.dose;
    const reps = Object.values(counted[key]), sets = new Set(reps).size, pattern = (own.pattern || []).length > 0;
    const asked = pattern ? own.pattern.reduce((a, n) => a + n, 0) : own.sets * own.reps, short = reps.length < asked;
    const done = pattern ? { sets: 1, reps: reps.length } : { sets: Math.max(1, sets), reps: sets ? Math.floor(reps.length / sets) : 0 };
    if (own.hold_breaths) done.hold_breaths = own.hold_breaths; else if (own.hold_s) done.hold_s = short && asked === 1 && key in held ? held[key] : own.hold_s;
    log({ kind: "done", done, ended_by: short ? "choice" : "target", rep: 0 }, s);
  }
}

// The end of the set that is under way, and the beginning of this or the one before.
const groups = () => score.segments.reduce((list, s, i) => {
  const g = s.kind === "work" ? `w ${s.item} ${s.set} ${s.side === "none" ? "" : score.items[s.item].side === "each" ? s.side : ""} ${s.extra ? "x" : ""}` : "s " + i;
  if (list.length && list.at(-1).g === g) list.at(-1).end = s.end; else list.push({ g, start: s.start, end: s.end });
  return list;
}, []);
const group = () => { const all = groups(); return { all, at: Math.max(0, all.findIndex(g => g.end > st.pos + 1e-6)) }; };
function forward() {
  const s = st.segment;
  if (st.waiting || s.wait && likes.mode === "led") { mark("go"); return; }
  const { all, at } = group();
  touch(s);
  seek(all[at].end, "skip");
  leave(all[at].end);
}
// touch notes that an item was begun, so that leaving it early is logged as what it was.
const held = {};
function touch(s) {
  if (s.kind !== "work") return;
  counted[keyOf(s)] = counted[keyOf(s)] || {};
  if (s.phase === "hold") held[keyOf(s)] = Math.round(into());
}
function back() {
  const { all, at } = group();
  seek(st.pos - all[at].start > 2 || at === 0 ? all[at].start : all[at - 1].start, "back");
}
function skip() {
  log({ kind: "skip" });
  const own = score.segments.filter(s => s.item === st.item && s.kind !== "finish");
  logged.add(keyOf(st.segment));
  seek(own.at(-1).end, "skip");
}

// All films are there before anything moves; a figure never stands under another name.
async function filmOf(item, side) {
  const it = data.items[item], key = it.version + " " + it.surface + " " + (it.ease || "") + " " + (side || "");
  if (films.has(key)) return films.get(key);
  const q = (side ? `side=${side}&` : "") + `build=${data.build}&surface=${it.surface}` + (it.ease ? `&ease=${it.ease}` : "");
  const got = load(`/figures/${it.version}/film?${q}`, it.name).then(({ film: f, svg }) => ({ film: f, svg, index: new Map(f.doc.phases.map((p, i) => [p.name, i])) })).catch(() => { films.delete(key); return null; });
  films.set(key, got);
  return got;
}
async function showFilm() {
  const s = st.segment, index = st.index, step = s.steps && s.steps.length ? st.step || s.steps[0] : null;
  if (step) {
    film = null;
    const img = document.createElement("img");
    img.src = `/poses/${step.pose}.svg?build=${data.build}`;
    img.alt = step.say;
    $("film").replaceChildren(img);
    return;
  }
  const got = await filmOf(s.item, st.side);
  if (!got || st.index !== index && (st.item !== s.item || st.side !== (s.side === "left" || s.side === "right" ? s.side : null))) return;
  film = got;
  if ($("film").firstChild !== got.svg) $("film").replaceChildren(got.svg);
}
function pose() {
  if (!film || !st.figure) return;
  const a = film.index.get(st.figure.from), z = film.index.get(st.figure.to), last = film.film.doc.phases.length - 1;
  if (a === undefined || z === undefined) return;
  if (still) film.film.show(z, z, 0);
  else if (st.segment.direction === "back" && a < z && z === last && last > 1) film.film.show(z, a, 1 - st.figure.share);
  else film.film.show(a, z, st.figure.share);
}

function show() {
  const s = st.segment, it = data.items[s.item], words = data.words[st.index];
  $("name").textContent = it.name;
  $("mind").textContent = it.minds.join(" "); $("mind").hidden = !it.minds.length;
  const side = $("side"), sides = score.items[s.item].sides || {};
  side.textContent = st.side ? sides[st.side] || capital(st.side) + " side" : s.in_turn || score.items[s.item].side === "alternate" ? "sides in turn" : "";
  side.className = "t-side " + (st.side || "");
  $("cue").textContent = s.kind === "move" || s.kind === "finish" ? "" : words.cue || (s.kind === "rest" ? "Rest. Ask: how did that feel?" : "");
  $("feel").textContent = score.items[s.item].says.feel ? "Felt: " + score.items[s.item].says.feel + ". " : "";
  $("stop").textContent = "Stop: " + score.items[s.item].says.stop.join(", ");
  const next = st.next === null ? null : data.items[st.next];
  $("next").textContent = next ? `Next: ${next.name}, ${next.dose}` : "Last one";
  const picture = $("next-figure");
  picture.hidden = !next;
  if (next) picture.src = `/figures/${next.version}.svg?thumb=1&surface=${next.surface}${next.ease ? "&ease=" + next.ease : ""}&build=${data.build}`;
  $("owed").textContent = st.owed.filter(o => o.item !== s.item || o.side !== st.side).map(o => `${data.items[o.item].name}, ${o.side}`).join(" · ");
  $("owed").hidden = !$("owed").textContent;
  showFilm();
}
const capital = w => w.charAt(0).toUpperCase() + w.slice(1);

function draw() {
  const s = st.segment, words = data.words[st.index], going = st.state === "running";
  const standing = st.countingIn ? "ready" : st.waiting ? "waits for go" : !going && st.state !== "done" ? st.state === "paused" ? "paused" : st.state : "";
  let number = st.number;
  if (number === null && !st.countingIn) number = s.kind === "work" ? "" : Math.max(0, Math.ceil(s.end - st.pos));
  put("count", number);
  put("label", standing || words.shown || { move: "to the next position", setup: "set up", rest: "rest", change: "change sides", reset: "one breath", finish: "coming up" }[s.kind] || "");
  if (s.steps && s.steps.length && st.step) {
    put("cue", st.step.say);
    const img = $("film").querySelector("img");
    if (!img || !img.src.includes(`/${st.step.pose}.svg`)) showFilm();
  }
  $("tide").style.transform = `scaleY(${st.breath === null ? 0 : (0.1 + 0.9 * st.breath).toFixed(3)})`;
  put("breath-word", s.breath === "in" || s.breath === "out" ? s.breath : "");
  $("progress").style.transform = `scaleX(${st.progress.toFixed(4)})`;
  const rest = Math.max(0, Math.round(score.seconds - st.pos));
  put("clock", `${Math.floor(rest / 60)}:${String(rest % 60).padStart(2, "0")} left` + (st.late >= 60 ? `, ${Math.floor(st.late / 60)} min late` : ""));
  put("pause", going && !st.waiting ? "pause" : "go on");
  pose();
}
function put(name, text) { const e = $(name); text = String(text); if (e.textContent !== text) e.textContent = text; }

// Tones and the browser's own voice, each only when it is switched on.
let audio;
function tone(kind) {
  if (!likes.sound) return;
  audio = audio || new AudioContext();
  const o = audio.createOscillator(), g = audio.createGain(), t = audio.currentTime;
  o.frequency.value = { start: 660, half: 520, last: 440, end: 880 }[kind];
  g.gain.setValueAtTime(0.0001, t);
  g.gain.exponentialRampToValueAtTime(0.15, t + 0.02);
  g.gain.exponentialRampToValueAtTime(0.0001, t + 0.22);
  o.connect(g).connect(audio.destination);
  o.start(t); o.stop(t + 0.25);
}
function speak(text) {
  if (!likes.voice || !text || !window.speechSynthesis || st.state === "talk") return;
  speechSynthesis.cancel();
  speechSynthesis.speak(new SpeechSynthesisUtterance(text));
}
let spoken = "";
function sound(from, to) {
  for (const s of sounds(score, from, to)) tone(s.tone);
  for (const i of said(score, from, to)) speak(data.words[i].say);
  const c = data.words[st.index].count;
  if (c && c.length && st.number !== null && !st.countingIn) { const key = st.index + " " + st.number; if (key !== spoken && st.share > 0) { spoken = key; if (likes.voice && c.length <= 12) speak(String(st.number)); } }
}

function tick() {
  if (left) return;
  st = state(score, marks, now());
  if (st.pos > lastPos) {
    const gap = unseen(lastPos, st.pos);
    if (gap && document.visibilityState === "visible" && shown >= 0) mark("unseen", { from: gap.from, to: gap.to });
    if (!gap) { count(lastPos, st.pos); sound(lastPos, st.pos); } // what nobody saw is not counted as done
  }
  lastPos = st.pos;
  leave(st.pos);
  if (st.index !== shown) { shown = st.index; keep(placeKey, { segment: shown, elapsed: 0 }); show(); }
  draw();
  if (st.state === "ended") leave(score.seconds + 1); // what was begun is logged as far as it went
  if (st.state === "done" || st.state === "ended") { finish(); return; }
  requestAnimationFrame(tick);
}
function finish() {
  left = true;
  flush().finally(() => { location.href = `/teach/${id}/after`; });
}

function banner(text) { $("banner").textContent = text; $("banner").hidden = !text; }
function press(kind) {
  if (kind === "skip") { skip(); return; }
  touch(st.segment);
  log({ kind });
  if (kind === "pain") $("pain").hidden = false;
  if (kind === "symptom") { mark("pause"); banner("Stop this one. Do symptoms spread down a limb, or numbness, dizziness, chest signs? Then end and refer."); }
  if (kind === "form") {
    const stop = score.items[st.item].says.stop;
    banner("The hold ends at the first loss of form. Rest, or ease" + (stop.length ? ": stop at " + stop.join(", ") : "") + ".");
    setTimeout(() => banner(""), 6000);
    const { all, at } = group();
    seek(all[at].end, "skip");
    leave(all[at].end);
  }
}
function pain(value) {
  log({ kind: "pain", pain: value, where: $("where").value });
  $("pain").hidden = true;
  if (value >= data.stop_from) { mark("pause"); banner(`Pain ${value}: this client stops an exercise from ${data.stop_from}. Stop it, and find a comfortable position.`); }
}
function toggle() {
  if (st.waiting) mark("go");
  else if (st.state === "running") mark("pause");
  else { banner(""); if (st.state === "talk") mark("talk", { on: false }); else mark("resume"); }
}
function set(name, value) {
  likes[name] = value;
  keep("teaching", likes);
  for (const b of document.querySelectorAll("[data-like]")) b.setAttribute("aria-pressed", String(b.dataset.like === "mode" ? likes.mode === "flowing" : !!likes[b.dataset.like]));
}
function mode(value) { // the position stays where it is: the clock is told of it anew
  const at = st ? st.pos : 0;
  set("mode", value);
  score.mode = value;
  if (st) seek(at, "device");
}

document.addEventListener("keydown", e => {
  if (e.ctrlKey || e.metaKey || e.altKey || /^(SELECT|INPUT)$/.test(e.target.tagName) || !st) return;
  if (!$("pain").hidden && /^[0-9]$/.test(e.key)) { pain(+e.key); return; }
  const own = { f: "form", s: "symptom", p: "pain", e: "ease", k: "skip" }, k = e.key.toLowerCase();
  if (k === " ") { e.preventDefault(); toggle(); }
  else if (k === "arrowright" || k === "pagedown") forward();
  else if (k === "arrowleft" || k === "pageup") back();
  else if (k === "t") mark("talk", { on: st.state !== "talk" });
  else if (k === "?") $("keys").showModal();
  else if (own[k]) press(own[k]);
});
$("felt").onchange = e => { if (e.target.value) { log({ kind: "felt", felt: e.target.value }); e.target.value = ""; } };
$("pause").onclick = toggle; $("forward").onclick = forward; $("back").onclick = back;
$("talk").onclick = () => mark("talk", { on: st.state !== "talk" });
$("end").onclick = () => $("ending").showModal();
for (const b of document.querySelectorAll("[data-because]")) b.onclick = () => { touch(st.segment); $("ending").close(); mark("end", { because: b.dataset.because }); };
for (const b of document.querySelectorAll("[data-mark]")) b.onclick = () => press(b.dataset.mark);
for (const b of document.querySelectorAll("[data-like]")) b.onclick = () => b.dataset.like === "mode" ? mode(likes.mode === "led" ? "flowing" : "led") : set(b.dataset.like, !likes[b.dataset.like]);
$("words").onchange = e => { set("words", e.target.value); words(); };
$("whole").onclick = () => document.fullscreenElement ? document.exitFullscreen() : document.documentElement.requestFullscreen().catch(() => {});
for (let i = 0; i <= 10; i++) { const b = document.createElement("button"); b.type = "button"; b.textContent = i; b.onclick = () => pain(i); $("pains").append(b); }

// The screen stays awake while a session runs.
async function awake() { try { if (navigator.wakeLock && document.visibilityState === "visible") await navigator.wakeLock.request("screen"); } catch { /* not granted: the session runs all the same */ } }
document.addEventListener("visibilitychange", awake);
addEventListener("pagehide", () => { if (data && navigator.sendBeacon) navigator.sendBeacon(`/teach/${id}/state`, new Blob([JSON.stringify({ segment: Math.max(0, shown), mode: likes.mode, marks })], { type: "application/json" })); });

const fetched = () => fetch(`/teach/${id}/data?words=${likes.words}`, { headers: { Accept: "application/json" } }).then(r => r.json());
async function words() { const d = await fetched(); data.words = d.words; shown = -1; }

fetched().then(async d => {
  data = d;
  score = d.score;
  if (d.state && d.state.mode) likes.mode = d.state.mode; // a session that runs goes on as it was begun
  score.mode = likes.mode;
  const here = read(marksKey, []), there = (d.state && d.state.marks) || [];
  marks = here.length >= there.length ? here : there;
  $("words").value = likes.words;
  set("mode", likes.mode);
  for (const word of d.felt) { const o = document.createElement("option"); o.value = word; o.textContent = word.replaceAll("-", " "); $("felt").append(o); }
  const wanted = new Map(score.segments.filter(s => !s.steps).map(s => { const side = s.side === "left" || s.side === "right" ? s.side : null; return [s.item + " " + side, [s.item, side]]; }));
  await Promise.all([...wanted.values()].map(([item, side]) => filmOf(item, side)));
  if (!marks.some(m => m.kind === "start")) { st = null; mark("start"); }
  laid();
  st = state(score, marks, now());
  lastPos = st.pos;
  for (const key of d.logged || []) logged.add(key);
  flush(); awake(); tick();
}).catch(e => { $("name").textContent = "The session could not be loaded. Reload this page; nothing is lost."; console.error(e); });
