// One position in a session's score, and what follows from it: what is drawn, counted, said and sounded.
// Pure: score, marks and the time in, a state out. Nothing here knows the page, and no rule of the trade is
// in it: the score says what happens, the marks what was pressed.

export const COUNT_IN = 3; // seconds after any wait

// ordered are the marks by time, each key once, without those that were undone and without the undoing. What was
// marked while an undone mark stood is moved back by as much as that had moved the clock.
export function ordered(marks) {
  const when = m => seconds(m.at), seen = new Set(), undone = new Set(), shift = new Map(), out = [];
  const list = [...marks].sort((a, b) => when(a) - when(b) || (a.pos || 0) - (b.pos || 0)).filter(m => !m.key || !seen.has(m.key) && seen.add(m.key));
  for (const m of list) if (m.kind === "undo") undone.add(m.of);
  for (const m of list) {
    let by = 0;
    for (const d of shift.values()) by += d;
    if (m.kind === "undo") shift.delete(m.of);
    else if (m.kind !== "start" && (undone.has(m.key) || undone.has(m.of))) { if (moves(m)) shift.set(m.key, m.to - m.pos); }
    else out.push(by ? { ...m, pos: Math.max(0, m.pos - by) } : m);
  }
  return out;
}

// moves tells that a mark says where the clock jumps to.
const moves = m => typeof m.to === "number" && m.kind !== "unseen" && m.kind !== "correct";

// A session's clock, from its marks. Wall seconds in, wall seconds out: nothing is ever added up from frames, so
// a tab that slept is right again at once. At each mark the position it was made at decides.
export function clock(score, marks, now) {
  const known = at.get(marks);
  if (!known || known.n !== marks.length || known.score !== score) at.set(marks, { n: marks.length, score, c: followed(score, marks) });
  const c = { ...at.get(marks).c };
  c.taps = [...c.taps];
  if (c.started !== null && c.state !== "ended") advance(score, c, now);
  return c;
}

const at = new WeakMap(); // where the last mark of a list left the clock

// followed is the clock as the last mark left it.
function followed(score, marks) {
  const c = { pos: 0, at: null, started: null, state: "ready", waiting: false, countIn: 0, paused: 0, waited: 0, because: "", mode: score.mode, pace: 1, taps: [] };
  for (const m of ordered(marks)) {
    const t = seconds(m.at);
    if (m.kind === "start") {
      if (c.started === null) Object.assign(c, { started: t, at: t, state: "running", pos: m.pos || 0, mode: m.mode || score.mode });
      continue;
    }
    if (c.started === null || c.state === "ended" || late.has(m.kind)) continue;
    advance(score, c, t);
    if (typeof m.pos === "number" && Math.abs(m.pos - c.pos) > 0.05) anchor(score, c, m.pos);
    apply(score, c, m, t);
  }
  return c;
}

const late = new Set(["correct", "note", "follow_up"]);
const seconds = at => typeof at === "number" ? at : Date.parse(at) / 1000;

// anchor takes the clock to where a mark says it was made.
function anchor(score, c, pos) {
  c.pos = Math.min(Math.max(0, pos), score.seconds);
  const before = score.segments[segmentAt(score, c.pos) - 1];
  c.waiting = c.mode === "led" && c.countIn === 0 && !!before && !!before.wait && before.end === c.pos;
  if (c.state === "done" && c.pos < score.seconds) c.state = "running";
}

// advance takes the clock to a time: it runs, stands at a wait until somebody says go, counts in, or pauses.
function advance(score, c, t) {
  let dt = Math.max(0, t - c.at);
  c.at = Math.max(c.at, t);
  if (c.state === "paused" || c.state === "talk" || c.state === "break") { c.paused += dt; return; }
  if (c.countIn > 0) {
    const used = Math.min(dt, c.countIn);
    c.countIn -= used; dt -= used; c.waited += used;
    if (c.countIn > 1e-9) return;
    c.countIn = 0;
  }
  if (c.waiting) { c.waited += dt; return; }
  if (c.pace !== 1) { // the client's own pace, to the end of the set
    const end = setEnd(score, c.pos), run = Math.min(dt * c.pace, end - c.pos);
    c.pos = Math.round((c.pos + run) * 1e6) / 1e6;
    dt -= run / c.pace;
    if (c.pos < end - 1e-9) return;
    c.pace = 1; c.taps = [];
  }
  const stop = c.mode === "led" ? score.segments.find(s => s.wait && s.end > c.pos + 1e-9) : null;
  const end = stop ? stop.end : score.seconds;
  if (c.pos + dt < end - 1e-9) { c.pos = Math.round((c.pos + dt) * 1e6) / 1e6; return; }
  c.waited += c.pos + dt - end;
  c.pos = end;
  if (stop) c.waiting = true; else c.state = "done";
}

// resume goes on after anything that stood still.
function resume(c) { Object.assign(c, { state: "running", waiting: false, countIn: COUNT_IN, taps: [], pace: 1 }); }

function apply(score, c, m, t) {
  if (m.member) return; // of a class: what one does moves nobody else
  switch (m.kind) {
  case "go": {
    if (c.state !== "running") { resume(c); break; }
    const s = score.segments[segmentAt(score, c.pos)];
    if (c.waiting) resume(c);
    else if (s && s.wait && c.pos < s.end) { c.pos = s.end; resume(c); } // before its time: the rest of the wait is left out
    return;
  }
  case "pause": c.state = "paused"; break;
  case "resume": if (c.state === "paused") resume(c); return;
  case "talk": if (m.on) c.state = "talk"; else if (c.state === "talk") resume(c); break;
  case "break": if (m.on) c.state = "break"; else if (c.state === "break") resume(c); break;
  case "mode": c.mode = m.mode; if (c.mode !== "led") c.waiting = false; break;
  case "form": if (!moves(m)) c.pos = afterRep(score, c.pos); break; // the hold is over
  case "tap": tap(score, c, t); return;
  case "end": c.state = "ended"; c.because = m.because; break;
  }
  if (moves(m)) {
    Object.assign(c, { pos: Math.min(Math.max(0, m.to), score.seconds), waiting: false, countIn: 0, pace: 1, taps: [] });
    if (c.state === "done") c.state = "running";
  }
}

// tap counts the repetition that is under way; from the second on the pace is that of the last three.
function tap(score, c, t) {
  const i = segmentAt(score, c.pos), s = score.segments[i];
  if (!s || s.kind !== "work") return;
  const set = `${s.item} ${s.set}`;
  if (c.taps.length && c.taps[0].set !== set) c.taps = [];
  c.taps.push({ t, set });
  const last = c.taps.slice(-4), rep = repSeconds(score, i);
  if (last.length > 1) {
    const each = (last.at(-1).t - last[0].t) / (last.length - 1);
    if (each > 0.2) c.pace = Math.min(4, Math.max(0.1, rep / each));
  }
  c.pos = afterRep(score, c.pos);
}

function repSeconds(score, i) {
  const s = score.segments[i];
  let a = i, z = i;
  while (a > 0 && sameRep(score.segments[a - 1], s)) a--;
  while (z + 1 < score.segments.length && sameRep(score.segments[z + 1], s)) z++;
  return score.segments[z].end - score.segments[a].start;
}

// setEnd is where the set ends that is under way.
export function setEnd(score, pos) {
  let i = segmentAt(score, pos);
  const s = score.segments[i];
  if (!s || s.kind !== "work") return pos;
  while (i + 1 < score.segments.length && sameSet(score.segments[i + 1], s)) i++;
  return score.segments[i].end;
}

// setStart is where the set begins that is under way, or the stretch that is none.
export function setStart(score, pos) {
  let i = segmentAt(score, pos);
  const s = score.segments[i];
  if (!s) return pos;
  while (i > 0 && sameSet(score.segments[i - 1], s)) i--;
  return score.segments[i].start;
}

// segmentAt is the index of the segment at a position; the last one at the end.
export function segmentAt(score, pos) {
  let a = 0, z = score.segments.length - 1;
  while (a < z) {
    const mid = (a + z) >> 1;
    if (score.segments[mid].end <= pos) a = mid + 1; else z = mid;
  }
  return a;
}

const sideOf = (score, s) => score.items[s.item].side === "alternate" ? "alternate" : s.side;
const sameSet = (a, b) => a === b || a.kind === "work" && b.kind === "work" && a.item === b.item && a.set === b.set && !a.extra === !b.extra && (a.side === b.side || !!a.in_turn || !!a.direction);
const sameRep = (a, b) => a.kind === "work" && a.item === b.item && a.set === b.set && a.rep === b.rep && a.side === b.side && !a.extra === !b.extra;

// afterRep is where the repetition ends that is under way; a tap counts it.
function afterRep(score, pos) {
  let i = segmentAt(score, pos);
  const s = score.segments[i];
  if (!s || s.kind !== "work") return pos;
  while (i + 1 < score.segments.length && sameRep(score.segments[i + 1], s)) i++;
  return score.segments[i].end;
}

// number is what is counted at a share of a segment: from its first towards its last number in equal parts.
export function number(count, share) {
  if (!count) return null;
  const n = Math.abs(count.to - count.from) + 1, k = Math.min(n - 1, Math.max(0, Math.floor(share * n + 1e-9)));
  return count.from + (count.to < count.from ? -k : k);
}

// breath is the tide: how full the lungs are, 0 to 1, null where the breath is free.
export function breath(segment, share) {
  if (segment.breath === "in") return share;
  if (segment.breath === "out") return 1 - share;
  return null;
}

// figure is which way of which film is shown, and how much of it.
export function figure(segment, share) {
  const f = segment.figure;
  if (!f) return null;
  if (f.phases && f.phases.length) {
    const round = f.phases, at = share * (f.cycles || 1) * round.length, k = Math.min(Math.floor(at), Math.ceil((f.cycles || 1) * round.length) - 1);
    return { from: round[k % round.length], to: round[(k + 1) % round.length], share: Math.min(1, at - k) };
  }
  const a = f.from_share || 0, z = f.to_share || 1;
  return { from: f.phase, to: f.to_phase || f.phase, share: f.to_phase ? a + (z - a) * share : 0 };
}

// state is everything that is shown at a time.
export function state(score, marks, now) {
  const c = clock(score, marks, now), at = segmentAt(score, c.pos), i = c.waiting && at > 0 ? at - 1 : at, s = score.segments[i]; // a wait shows what has just ended
  if (!s) return { ...c, index: -1 };
  const share = s.end > s.start ? Math.min(1, Math.max(0, (c.pos - s.start) / (s.end - s.start))) : 1;
  return {
    ...c, index: i, segment: s, share, item: s.item,
    number: c.countIn > 0 ? Math.ceil(c.countIn) : number(s.count, share),
    countingIn: c.countIn > 0, breath: breath(s, share), figure: figure(s, share), step: stepAt(s, c.pos - s.start),
    side: s.side === "left" || s.side === "right" ? s.side : null,
    progress: score.seconds > 0 ? c.pos / score.seconds : 1,
    late: c.started === null ? 0 : Math.max(0, c.at - c.started - c.pos), // what it runs over, if it goes on as planned
    into: s.phase === "hold" ? c.pos - s.start : c.pos - score.segments[repStart(score, i)].start,
    logSide: sideOf(score, s),
  };
}

// easeOf is the ease an item is done with on a side: none on the other where only one side is eased.
export function easeOf(item, side) {
  const ease = (item.eases || [])[0] || "";
  return item.eased_side && side && item.eased_side !== side ? "" : ease;
}

// saysOf are the words of an item on a side: with its ease, or as it stands on the side that is not eased.
export function saysOf(item, side) {
  return item.other_says && side && item.eased_side !== side ? item.other_says : item.says;
}

// remains tells whether anything of an exercise is still to come at a position, or under way.
export function remains(score, pos, item) {
  return score.segments.some(s => s.item === item && s.kind === "work" && s.end > pos + 1e-9);
}

// setAfter is the first segment of the next set of the same exercise after a rest or a change of sides, null where
// another one comes.
export function setAfter(score, i) {
  const n = score.segments.slice(i + 1).find(s => s.kind === "work");
  return n && n.item === score.segments[i].item ? n : null;
}

// next is the item that comes after a segment's, null when none does.
export function next(score, i) {
  const s = score.segments[i];
  for (let k = i + 1; k < score.segments.length; k++) {
    const n = score.segments[k];
    if (n.item !== s.item && n.kind !== "move" && n.kind !== "finish") return n.item;
  }
  return null;
}

function repStart(score, i) {
  const s = score.segments[i];
  while (i > 0 && sameRep(score.segments[i - 1], s)) i--;
  return i;
}

// stepAt is the step of a change of position that is under way.
export function stepAt(segment, into) {
  let found = null;
  for (const s of segment.steps || []) if (s.at <= into + 1e-9) found = s;
  return found;
}

// owed are the sides of begun items that are not done yet.
export function owed(score, pos) {
  const begun = new Map();
  for (const s of score.segments) {
    if (s.kind !== "work" || s.side !== "left" && s.side !== "right") continue;
    const o = begun.get(s.item) || { begun: false, left: 0, right: 0 };
    if (s.start < pos) o.begun = true;
    if (s.end > pos + 1e-9) o[s.side]++;
    begun.set(s.item, o);
  }
  const out = [];
  for (const [item, o] of begun) {
    if (!o.begun) continue;
    for (const side of ["left", "right"]) if (o[side] > 0) out.push({ item, side });
  }
  return out;
}

// sounds are the tones between two positions of the running clock: a stretch begins, is half over, has three
// seconds left, ends. They follow kind and phase only.
export function sounds(score, from, to) {
  const out = [], list = score.segments;
  if (!(to > from)) return out;
  for (let i = segmentAt(score, from); i < list.length && list[i].start <= to; i++) {
    const s = list[i], first = stretch(score, i, -1), last = stretch(score, i, 1), start = list[first].start, end = list[last].end, length = end - start, passed = t => t > from && t <= to;
    if (s.kind !== "work" && s.kind !== "rest") continue;
    const long = s.phase === "hold" || s.phase === "window" || s.kind === "rest";
    if (i === first && passed(start) && s.phase !== "out") out.push({ at: start, tone: "start", segment: i });
    if (!long) continue;
    const half = start + length / 2, mine = t => t > s.start && t <= s.end && passed(t);
    if (length >= 10 && mine(half)) out.push({ at: half, tone: "half", segment: i });
    if (length >= 6) for (const left of [3, 2, 1]) if (mine(end - left)) out.push({ at: end - left, tone: "last", segment: i });
    if (mine(end)) out.push({ at: end, tone: "end", segment: i });
  }
  return out.sort((a, b) => a.at - b.at);
}

// stretch is the first or the last segment of a hold that is written breath by breath.
function stretch(score, i, step) {
  const s = score.segments[i];
  while (score.segments[i + step] && s.phase === "hold" && score.segments[i + step].phase === "hold" && sameRep(score.segments[i + step], s)) i += step;
  return i;
}

// said are the segments that begin between two positions, whose words are spoken.
export function said(score, from, to) {
  const out = [];
  for (let i = segmentAt(score, from); i < score.segments.length && score.segments[i].start <= to; i++) if (score.segments[i].start > from && score.segments[i].start <= to) out.push(i);
  return out;
}

// heard is everything that sounds between two positions of the running clock: tones by kind, and the words of the
// segments that begin, with the numbers of their counts. Likes say which parts are wanted.
export function heard(score, words, from, to, likes) {
  const out = [];
  const tones = likes.tones || {};
  for (const s of sounds(score, from, to)) if (tones[s.tone]) out.push({ at: s.at, tone: s.tone });
  if (likes.voice) for (const i of said(score, from, to)) if (words[i] && words[i].say) out.push({ at: score.segments[i].start, say: words[i].say });
  if (likes.numbers && to > from) {
    for (let i = segmentAt(score, from); i < score.segments.length && score.segments[i].start <= to; i++) {
      const s = score.segments[i], count = (words[i] && words[i].count) || [], each = (s.end - s.start) / Math.max(1, count.length);
      count.forEach((n, k) => {
        const at = s.start + k * each;
        if (at > from && at <= to && each >= 0.9) out.push({ at, say: n, number: true }); // faster than they can be said they are left out
      });
    }
  }
  return out.sort((a, b) => a.at - b.at);
}

// stretch is the line of the session: where each position is entered, seconds and how high the body is.
export function lineAt(points, pos) {
  let a = points[0];
  for (const p of points) {
    if (p[0] > pos) { const share = p[0] > a[0] ? (pos - a[0]) / (p[0] - a[0]) : 1; return a[1] + (p[1] - a[1]) * share; }
    a = p;
  }
  return a ? a[1] : 0;
}

// unseen is the mark of what passed while nobody could see it: a frame came later than it may, by seconds
// (product default).
export function unseen(before, after, most = 5) {
  return after - before > most ? { kind: "unseen", from: before, to: after } : null;
}

// signs are the words of signs that end a session, among marks that were not undone. Answers tells which word an
// answer to a symptom is, urgent which words end a session.
export function signs(marks, answers, urgent) {
  const out = [];
  for (const m of ordered(marks)) {
    const words = [].concat(m.felt || []);
    for (const a of Object.keys(answers)) if (m[a]) words.push(answers[a]);
    for (const w of words) if (urgent.includes(w) && !out.includes(w)) out.push(w);
  }
  return out;
}

// leading is the device that leads: the one somebody began on, or took over last.
export function leading(marks) {
  let device = null;
  for (const m of ordered(marks)) if (m.kind === "start" || m.kind === "here") device = m.device || device;
  return device;
}
