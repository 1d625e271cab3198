// The player's module without a page: score, marks and the time in, a state out.
import assert from "node:assert/strict";
import { readFile } from "node:fs/promises";
import test from "node:test";
import { breath, clock, figure, number, owed, said, segmentAt, sounds, state, unseen } from "../static/score.js";

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
