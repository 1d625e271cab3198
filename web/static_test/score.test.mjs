// The player's module without a page: score, marks and the time in, a state out.
import assert from "node:assert/strict";
import { readFile, writeFile } from "node:fs/promises";
import test from "node:test";
import { breath, clock, easeOf, figure, heard, leading, lineAt, next, number, ordered, owed, remains, said, saysOf, segmentAt, setAfter, setEnd, setStart, signs, sounds, state, unseen } from "../static/score.js";

const score = JSON.parse(await readFile(new URL("../../docs/formats/examples/score.json", import.meta.url)));
const flowing = { ...score, mode: "flowing" };
const start = { kind: "start", at: 1000 };
const close = (a, b, why) => assert.ok(Math.abs(a - b) < 1e-6, `${why || ""} ${a} is not ${b}`);

test("flowing: the position is the time since the start", () => {
  for (const t of [0, 12.4, 63, score.seconds - 0.1]) close(clock(flowing, [start], 1000 + t).pos, t);
  assert.equal(clock(flowing, [start], 1000 + score.seconds + 5).state, "done");
  assert.equal(clock(flowing, [], 1000).state, "ready");
});

test("led: it stands at a wait until go, then counts in", () => {
  const wait = score.segments.find(s => s.wait);
  const c = clock(score, [start], 1000 + wait.end + 40);
  close(c.pos, wait.end);
  assert.ok(c.waiting);
  close(c.waited, 40);
  const go = { kind: "go", at: 1000 + wait.end + 40 };
  assert.equal(state(score, [start, go], go.at + 0.5).number, 3);
  assert.equal(state(score, [start, go], go.at + 2.5).number, 1);
  close(clock(score, [start, go], go.at + 3).pos, wait.end);
  close(clock(score, [start, go], go.at + 4.5).pos, wait.end + 1.5);
});

test("led: go before its time leaves out the rest of the wait", () => {
  const wait = score.segments.find(s => s.wait), at = 1000 + wait.start + 1;
  close(clock(score, [start, { kind: "go", at }], at + 3).pos, wait.end);
});

test("a pause, talk and a break stop the clock and are told apart from waits", () => {
  for (const [on, off] of [[{ kind: "pause" }, { kind: "resume" }], [{ kind: "talk", on: true }, { kind: "talk", on: false }], [{ kind: "break", on: true }, { kind: "break", on: false }]]) {
    const marks = [start, { ...on, at: 1010 }, { ...off, at: 1050 }];
    close(clock(flowing, marks, 1030).pos, 10);
    const c = clock(flowing, marks, 1060);
    close(c.pos, 10 + 10 - 3, on.kind); // ten seconds less the count-in
    close(c.paused, 40);
  }
});

test("a tab that slept for ten minutes is right, and what passed is marked", () => {
  const frames = [1005, 1605].map(t => clock(flowing, [start], t).pos);
  close(frames[1], Math.min(605, flowing.seconds));
  assert.deepEqual(unseen(5, 605), { kind: "unseen", from: 5, to: 605 });
  assert.equal(unseen(5, 5.1), null);
});

test("the same marks in another order of arrival, or from another device, lead to the same second", () => {
  const marks = [start, { kind: "pause", at: 1020 }, { kind: "resume", at: 1030 }];
  const again = JSON.parse(JSON.stringify(marks));
  close(clock(flowing, marks, 1100).pos, clock(flowing, again, 1100).pos);
  const iso = marks.map(m => ({ ...m, at: new Date(m.at * 1000).toISOString() }));
  close(clock(flowing, iso, 1100).pos, clock(flowing, marks, 1100).pos);
});

test("a tap ends the repetition, seek goes anywhere, end ends", () => {
  const i = score.segments.findIndex(s => s.kind === "work"), s = score.segments[i];
  const tapped = clock(flowing, [start, { kind: "tap", at: 1000 + s.start + 0.5 }], 1000 + s.start + 0.5).pos;
  const last = score.segments.filter(x => x.kind === "work" && x.item === s.item && x.set === s.set && x.rep === s.rep && x.side === s.side).at(-1);
  close(tapped, last.end);
  close(clock(flowing, [start, { kind: "seek", to: 100, at: 1003 }], 1004).pos, 101);
  const ended = clock(flowing, [start, { kind: "end", because: "time", at: 1050 }], 2000);
  assert.equal(ended.state, "ended");
  assert.equal(ended.because, "time");
  close(ended.pos, 50);
});

test("numbers go in equal parts from the first to the last", () => {
  const down = { unit: "seconds", from: 10, to: 1 };
  assert.deepEqual([0, 0.05, 0.1, 0.55, 0.99, 1].map(x => number(down, x)), [10, 10, 9, 5, 1, 1]);
  assert.deepEqual([0, 0.5, 1].map(x => number({ unit: "up", from: 1, to: 60 }, x)), [1, 31, 60]);
  assert.equal(number({ unit: "breaths", from: 2, to: 2, of: 5 }, 0.7), 2);
  assert.equal(number(undefined, 0.5), null);
});

test("ten seconds of a hold show ten numbers, each for a second", () => {
  const seen = new Map();
  const hold = score.segments.find(s => s.count && s.count.unit === "seconds");
  for (let t = hold.start; t < hold.end - 1e-9; t += 0.05) {
    const n = state(flowing, [start], 1000 + t).number;
    seen.set(n, (seen.get(n) || 0) + 1);
  }
  const n = hold.count.from;
  assert.equal(seen.size, n);
  for (const times of seen.values()) assert.ok(times >= 19 && times <= 21, `${times} frames`);
});

test("the tide rises with the in-breath and falls with the out-breath", () => {
  assert.equal(breath({ breath: "in" }, 0.25), 0.25);
  assert.equal(breath({ breath: "out" }, 0.25), 0.75);
  assert.equal(breath({ breath: "free" }, 0.25), null);
});

test("the figure follows phase and share, or goes round", () => {
  assert.deepEqual(figure({ figure: { phase: "ready", to_phase: "lift" } }, 0.4), { from: "ready", to: "lift", share: 0.4 });
  assert.deepEqual(figure({ figure: { phase: "lift" } }, 0.4), { from: "lift", to: "lift", share: 0 });
  assert.equal(figure({ figure: { phases: ["up", "out", "away"], cycles: 1 } }, 0.5).from, "out");
  const round = figure({ figure: { phases: ["a", "b"], cycles: 2 } }, 1);
  assert.deepEqual([round.from, round.to, round.share], ["b", "a", 1]);
  assert.deepEqual(figure({ figure: { phase: "a", to_phase: "b", from_share: 0.5, to_share: 1 } }, 0.5), { from: "a", to: "b", share: 0.75 });
});

test("what is owed is the other side of what was begun", () => {
  const first = score.segments.find(s => s.kind === "work" && s.side === "left");
  if (first) {
    const list = owed(score, first.start + 0.1);
    assert.ok(list.some(o => o.item === first.item && o.side === "left"));
    assert.ok(list.some(o => o.item === first.item && o.side === "right"));
  }
  assert.deepEqual(owed(score, 0), []);
  assert.deepEqual(owed(score, score.seconds), []);
});

test("tones: start, half, the last three seconds, end, each once", () => {
  const hold = { mode: "flowing", seconds: 20, segments: [{ item: 0, kind: "setup", start: 0, end: 5 }, { item: 0, kind: "work", phase: "hold", start: 5, end: 15 }, { item: 0, kind: "finish", start: 15, end: 20 }] };
  const all = [];
  for (let t = 0; t < 20; t += 0.1) all.push(...sounds(hold, t, t + 0.1));
  assert.deepEqual(all.map(s => s.tone), ["start", "half", "last", "last", "last", "end"]);
  assert.deepEqual(sounds(hold, 8, 8), []);
});

test("every segment is said once, however the frames fall", () => {
  for (const step of [0.016, 0.9, 7]) {
    const list = [];
    for (let t = 0; t < score.seconds; t += step) list.push(...said(score, t, t + step));
    assert.equal(new Set(list).size, list.length);
    assert.equal(list.length, score.segments.length - 1); // the first begins before any frame
  }
});

test("a whole session matches the score second by second, at sixty times the speed", () => {
  for (let t = 0; t < score.seconds; t++) { // a frame a sixtieth of a second, a second of the session each
    const s = state(flowing, [start], 1000 + t);
    assert.equal(s.index, segmentAt(flowing, t));
    assert.ok(s.segment.start <= t && t <= s.segment.end);
  }
});

test("led and late: the hour says how much it runs over", () => {
  const wait = score.segments.find(s => s.wait);
  const s = state(score, [start], 1000 + wait.end + 40);
  close(s.late, 40);
});

// Everything that is heard in a session of twenty minutes, with every part switched on: read as somebody lying with
// eyes shut would, it has to be enough. Written anew with UPDATE=1.
test("what is heard in twenty minutes is enough to do it with eyes shut", async () => {
  const { score, words } = JSON.parse(await readFile(new URL("testdata/session.json", import.meta.url)));
  const likes = { tones: { start: true, half: true, last: true, end: true }, voice: true, numbers: true };
  const lines = [];
  for (let t = 0; t < score.seconds; t += 0.1) for (const h of heard(score, words, t === 0 ? -1 : t, t + 0.1, likes)) lines.push(`${String(Math.floor(h.at / 60)).padStart(2, "0")}:${(h.at % 60).toFixed(1).padStart(4, "0")} ${h.tone ? "~ " + h.tone : h.number ? "  " + h.say : h.say}`);
  const file = new URL("testdata/heard.txt", import.meta.url), text = lines.join("\n") + "\n";
  if (process.env.UPDATE) await writeFile(file, text);
  assert.equal(text, await readFile(file, "utf8"));
  for (const [i, s] of score.segments.entries()) if (s.kind === "setup" || s.kind === "change" || s.kind === "rest") assert.ok(words[i].say, `segment ${i}, a ${s.kind}, says what to do`);
  assert.deepEqual(heard(score, words, 0, score.seconds, {}), [], "silent is silent");
});

test("an undone mark is as if it had never been pressed", () => {
  const form = { key: "f", kind: "form", at: 1020, pos: 20, to: 90 }, undo = { key: "u", kind: "undo", of: "f", at: 1025 };
  close(clock(flowing, [start, form], 1022).pos, 92);
  close(clock(flowing, [start, form, undo], 1025).pos, 25, "where it would be");
  close(clock(flowing, [start, form, { key: "h", kind: "here", at: 1023, pos: 93 }, undo], 1030).pos, 30);
});

test("what is taken back is taken back with what was said of it later", () => {
  const first = { key: "s", kind: "symptom", at: 1010 }, more = { key: "m", kind: "symptom", of: "s", pain: 3, at: 1012 }, other = { key: "o", kind: "felt", at: 1013 };
  assert.deepEqual(ordered([start, first, more, other, { key: "u", kind: "undo", of: "s", at: 1020 }]).map(m => m.kind), ["start", "felt"]);
  assert.deepEqual(ordered([start, first, more, { key: "u", kind: "undo", of: "m", at: 1020 }]).map(m => m.key), [undefined, "s"]);
});

test("what is left of an exercise, and the set after a rest", () => {
  const s = { items: [{}, {}], segments: [
    { item: 0, kind: "setup", start: 0, end: 10 }, { item: 0, kind: "work", set: 1, of_sets: 2, start: 10, end: 20 }, { item: 0, kind: "rest", set: 2, start: 20, end: 50 },
    { item: 0, kind: "work", set: 2, of_sets: 2, start: 50, end: 60 }, { item: 1, kind: "setup", start: 60, end: 70 }, { item: 1, kind: "work", set: 1, of_sets: 1, start: 70, end: 80 }] };
  assert.ok(remains(s, 0, 0) && remains(s, 59.9, 0));
  assert.ok(!remains(s, 60, 0) && remains(s, 60, 1) && !remains(s, 80, 1));
  assert.equal(setAfter(s, 2).set, 2);
  assert.equal(setAfter(s, 3), null, "another exercise comes");
  assert.equal(setAfter(s, 5), null, "nothing comes");
});

test("marks that arrive twice or out of order change nothing", () => {
  const marks = [{ ...start, key: "s" }, { key: "p", kind: "pause", at: 1010 }, { key: "r", kind: "resume", at: 1020 }];
  close(clock(flowing, [...marks].reverse().concat(marks), 1040).pos, clock(flowing, marks, 1040).pos);
  assert.equal(ordered([...marks, ...marks]).length, 3);
});

test("taps: the count follows the client, the pace is that of the last three", () => {
  const i = score.segments.findIndex(s => s.kind === "work" && s.item === 0), from = score.segments[i].start;
  const seek = { key: "k", kind: "seek", at: 1001, to: from + 1 }, rep = 15; // in 3, hold 10, out 2
  const marks = [start, seek, { key: "1", kind: "tap", at: 1010 }, { key: "2", kind: "tap", at: 1040 }];
  close(clock(flowing, marks.slice(0, 3), 1010).pos, from + rep, "one is counted");
  const c = clock(flowing, marks, 1040);
  close(c.pos, from + 4 * rep, "it ran two further by itself, the tap counts the next"); // from +15 at 1010, +30 s, then the tap
  close(c.pace, rep / 30, "half as fast as it stands in the score");
  close(clock(flowing, marks, 1050).pos - c.pos, 10 * rep / 30);
});

test("the mode can change on the way", () => {
  const wait = score.segments.find(s => s.wait);
  const marks = [start, { key: "m", kind: "mode", mode: "flowing", at: 1000 + wait.end + 10 }];
  close(clock(score, marks, 1000 + wait.end + 15).pos, wait.end + 5);
  close(clock(flowing, [start, { key: "m", kind: "mode", mode: "led", at: 1001 }], 1000 + wait.end + 50).pos, wait.end);
});

test("at a mark the position it was made at decides", () => {
  close(clock(flowing, [start, { key: "h", kind: "here", at: 1020, pos: 24 }], 1030).pos, 34);
});

test("a set has a beginning and an end, whatever is in it", () => {
  const i = score.segments.findIndex(s => s.kind === "work" && s.item === 0), last = score.segments.findLast(s => s.kind === "work" && s.item === 0);
  close(setStart(score, last.start), score.segments[i].start);
  close(setEnd(score, score.segments[i].start), last.end);
  assert.equal(next(score, i), 1);
  assert.equal(next(score, score.segments.length - 1), null);
});

test("signs that end a session are found in words and answers, not in what was undone", () => {
  const answers = { travels: "travels-down", chest: "chest" }, urgent = ["travels-down", "chest", "numbness"];
  const a = { key: "a", kind: "symptom", at: 1, travels: true }, b = { key: "b", kind: "felt", at: 2, felt: ["numbness"] }, c = { key: "c", kind: "felt", at: 3, felt: ["tiring"] };
  assert.deepEqual(signs([a, b, c], answers, urgent), ["travels-down", "numbness"]);
  assert.deepEqual(signs([a, b, { key: "u", kind: "undo", of: "a", at: 4 }], answers, urgent), ["numbness"]);
});

test("the device that began leads, until another takes over", () => {
  const marks = [{ key: "1", kind: "start", at: 1, device: "a" }, { key: "2", kind: "go", at: 2, device: "b" }];
  assert.equal(leading(marks), "a");
  assert.equal(leading([...marks, { key: "3", kind: "here", at: 3, device: "b" }]), "b");
  assert.equal(leading([]), null);
});

test("the dot stands on the line", () => {
  const points = [[0, 1], [10, 1], [20, 0], [40, 0]];
  for (const [pos, y] of [[0, 1], [5, 1], [15, 0.5], [20, 0], [39, 0], [50, 0]]) close(lineAt(points, pos), y);
});

test("an ease of one side alone is drawn and said on that side", () => {
  const item = { eases: ["low-arm"], eased_side: "left", says: { out: "eased" }, other_says: { out: "in full" } };
  const both = { eases: ["low-arm"], says: { out: "eased" } };
  for (const [it, side, ease, out] of [[item, "left", "low-arm", "eased"], [item, "right", "", "in full"], [item, null, "low-arm", "eased"],
    [both, "left", "low-arm", "eased"], [both, "right", "low-arm", "eased"], [{ says: { out: "plain" } }, "left", "", "plain"]]) {
    assert.equal(easeOf(it, side), ease);
    assert.equal(saysOf(it, side).out, out);
  }
});
