// One position in a session's score, and what follows from it: what is drawn, counted, said and sounded.
// Pure: score, marks and the time in, a state out. Nothing here knows the page, and no rule of the trade is
// in it: the score says what happens, the marks what was pressed.

export const COUNT_IN = 3; // seconds after any wait

// A session's clock, from its marks in the order of their time. Wall seconds in, wall seconds out: nothing is
// ever added up from frames, so a tab that slept is right again at once.
export function clock(score, marks, now) {
  const c = { pos: 0, at: null, started: null, state: "ready", waiting: false, countIn: 0, paused: 0, waited: 0, because: "" };
  for (const m of marks) {
    const t = seconds(m.at);
    if (m.kind === "start") {
      Object.assign(c, { started: t, at: t, state: "running" });
      continue;
    }
    if (c.started === null || c.state === "ended") continue;
    advance(score, c, t);
    apply(score, c, m, t);
  }
  if (c.started !== null && c.state !== "ended") advance(score, c, now);
  return c;
}

const seconds = at => typeof at === "number" ? at : Date.parse(at) / 1000;

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
  const stop = score.mode === "led" ? score.segments.find(s => s.wait && s.end > c.pos + 1e-9) : null;
  const end = stop ? stop.end : score.seconds;
  if (c.pos + dt < end - 1e-9) { c.pos = Math.round((c.pos + dt) * 1e6) / 1e6; return; }
  c.waited += c.pos + dt - end;
  c.pos = end;
  if (stop) c.waiting = true; else c.state = "done";
}

// resume goes on after anything that stood still.
function resume(c) { Object.assign(c, { state: "running", waiting: false, countIn: COUNT_IN }); }

function apply(score, c, m, t) {
  switch (m.kind) {
  case "go": {
    if (c.state !== "running") { resume(c); break; }
    const s = score.segments[segmentAt(score, c.pos)];
    if (c.waiting) resume(c);
    else if (s && s.wait && c.pos < s.end) { c.pos = s.end; resume(c); } // before its time: the rest of the wait is left out
    break;
  }
  case "pause": c.state = "paused"; break;
  case "resume": if (c.state === "paused") resume(c); break;
  case "talk": if (m.on) c.state = "talk"; else if (c.state === "talk") resume(c); break;
  case "break": if (m.on) c.state = "break"; else if (c.state === "break") resume(c); break;
  case "tap": c.pos = afterRep(score, c.pos); break;
  case "seek": Object.assign(c, { pos: Math.min(Math.max(0, m.to), score.seconds), waiting: false, countIn: 0 }); if (c.state === "done") c.state = "running"; break;
  case "end": c.state = "ended"; c.because = m.because; break;
  }
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
  const c = clock(score, marks, now), i = segmentAt(score, c.pos), s = score.segments[i];
  if (!s) return { ...c, index: -1 };
  const share = s.end > s.start ? Math.min(1, Math.max(0, (c.pos - s.start) / (s.end - s.start))) : 1;
  const next = score.segments.slice(i + 1).find(n => n.item !== s.item && n.kind !== "move" && n.kind !== "finish");
  return {
    ...c, index: i, segment: s, share, item: s.item,
    number: c.countIn > 0 ? Math.ceil(c.countIn) : number(s.count, share),
    countingIn: c.countIn > 0, breath: breath(s, share), figure: figure(s, share), step: stepAt(s, c.pos - s.start),
    side: s.side === "left" || s.side === "right" ? s.side : null, next: next ? next.item : null,
    progress: score.seconds > 0 ? c.pos / score.seconds : 1,
    late: c.started === null ? 0 : Math.max(0, c.at - c.started - c.pos), // what it runs over, if it goes on as planned
    owed: owed(score, c.pos),
  };
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
  const out = [];
  if (!(to > from)) return out;
  for (let i = segmentAt(score, from); i < score.segments.length && score.segments[i].start <= to; i++) {
    const s = score.segments[i], length = s.end - s.start, passed = t => t > from && t <= to;
    if (s.kind !== "work" && s.kind !== "rest") continue;
    const long = s.phase === "hold" || s.phase === "window" || s.kind === "rest";
    if (passed(s.start) && s.phase !== "out") out.push({ at: s.start, tone: "start", segment: i });
    if (long && length >= 10 && passed(s.start + length / 2)) out.push({ at: s.start + length / 2, tone: "half", segment: i });
    if (long && length >= 6) for (const left of [3, 2, 1]) if (passed(s.end - left)) out.push({ at: s.end - left, tone: "last", segment: i });
    if (long && passed(s.end)) out.push({ at: s.end, tone: "end", segment: i });
  }
  return out.sort((a, b) => a.at - b.at);
}

// said are the segments that begin between two positions, whose words are spoken.
export function said(score, from, to) {
  const out = [];
  for (let i = segmentAt(score, from); i < score.segments.length && score.segments[i].start <= to; i++) if (score.segments[i].start > from && score.segments[i].start <= to) out.push(i);
  return out;
}

// unseen is the mark of what passed while nobody could see it: a frame came later than it may, by seconds
// (product default).
export function unseen(before, after, most = 5) {
  return after - before > most ? { kind: "unseen", from: before, to: after } : null;
}
