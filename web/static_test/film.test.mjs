// The browser's film module, without a browser: node --test web/static_test
import assert from "node:assert/strict";
import { readFile } from "node:fs/promises";
import test from "node:test";
import { decode, momentAt, outline, pause, points, position, timeline } from "../static/film.js";

const film = JSON.parse(await readFile(new URL("./film.json", import.meta.url))); // written by go test ./figure -update

test("differences add up to as many points as the parts have", () => {
  const moments = decode(film), n = film.parts.reduce((a, p) => a + p.points.reduce((x, y) => x + 2 * y, 0) + (p.fade ? 1 : 0), 0);
  assert.equal(moments.length, film.moments.length + 1);
  for (const m of moments) assert.equal(m.length, n);
  assert.deepEqual(moments.at(-1), moments[film.phases[film.back].at], "the round closes");
});

test("a share of the way lies between its phases", () => {
  const [a, b] = [film.phases[0], film.phases[1]];
  assert.equal(position(film, 0, 1, 0), a.at);
  assert.equal(position(film, 0, 1, 1), b.at);
  assert.equal(position(film, 0, 1, 0.5), (a.at + b.at) / 2);
  assert.equal(position(film, 1, 0, 1), film.phases.length === 2 ? b.to : a.at, "the last phase goes on to the first");
  for (const [from, to, share] of [[0, 9, 0], [-1, 0, 0], [0, 1, 1.5], [0, 1, NaN]]) assert.throws(() => position(film, from, to, share), RangeError);
});

test("points move in a straight line between two moments", () => {
  const moments = decode(film), out = new Float32Array(moments[0].length);
  points(moments, 2.25, out);
  for (let i = 0; i < out.length; i++) assert.ok(Math.abs(out[i] - (0.75 * moments[2][i] + 0.25 * moments[3][i])) < 0.01);
  points(moments, moments.length - 1, out);
  assert.deepEqual(out, moments.at(-1));
});

test("outlines: closed and smooth, straight, or an open line", () => {
  const square = [0, 0, 100, 0, 100, 100, 0, 100];
  const smooth = outline(square, 0, 4, false, false);
  assert.match(smooth, /^M0 0(C[-\d ]+){4}Z$/);
  assert.equal(outline(square, 0, 4, false, true), "M0 0L100 0L100 100L0 100Z");
  assert.equal(outline(square, 2, 2, true, false), "M100 0L100 100");
  assert.doesNotMatch(outline([5, 5, 5, 5, 5, 5, 5, 5], 0, 4, false, false), /NaN/, "what is not there draws nothing wrong");
});

test("a film that runs by itself moves in authored time, stays where it is held and pauses where it begins again", () => {
  const line = timeline(film);
  const moving = line.steps.filter(s => !s.still).reduce((a, s) => a + s.seconds, 0), staying = line.steps.filter(s => s.still).reduce((a, s) => a + s.seconds, 0);
  const round = film.phases.slice(film.back);
  assert.ok(Math.abs(moving - round.reduce((a, p) => a + p.move, 0)) < 1e-9);
  assert.ok(Math.abs(staying - pause - round.reduce((a, p) => a + p.stay, 0)) < 1e-9);
  assert.equal(momentAt(film, line, 0), film.phases[film.back].at);
  assert.equal(momentAt(film, line, pause / 2), film.phases[film.back].at, "it rests before it begins");
  assert.equal(momentAt(film, line, line.seconds), momentAt(film, line, 0));
  let last = momentAt(film, line, 0);
  for (let t = 0; t < line.seconds; t += 1 / 60) { // nothing jumps, nothing runs back
    const at = momentAt(film, line, t);
    assert.ok(at >= last - 1e-9 || at < 0.01, `${t}: ${last} to ${at}`);
    assert.ok(at - last < 1.5, `${t}: ${last} to ${at}`);
    last = at;
  }
});

test("drawing one moment takes far less than two milliseconds", () => {
  const moments = decode(film), out = new Float32Array(moments[0].length);
  const draw = at => {
    const v = points(moments, at, out);
    let k = 0, d = "";
    for (const p of film.parts) {
      for (const n of p.points) { d += outline(v, k, n, !!p.width, !!p.sharp); k += 2 * n; }
      if (p.fade) k++;
    }
    return d;
  };
  for (let i = 0; i < 50; i++) draw(i % 7); // warm
  const times = [];
  for (let i = 0; i < 200; i++) { const t = performance.now(); draw((i * 0.37) % (moments.length - 1)); times.push(performance.now() - t); }
  times.sort((a, b) => a - b);
  console.log(`median ${times[100].toFixed(3)} ms a moment`);
  assert.ok(times[100] < 2, `median ${times[100]} ms`);
});
