// An exercise as moving parts. The document holds whole-number points for every solved
// moment; here they are drawn and moved between. A film can be driven to any share of the
// way between two phases, or runs by itself.

// decode adds the differences up: one array of points for each moment, and the moment that
// follows the last once more at the end.
export function decode(film) {
  const moments = [];
  let last = null;
  for (const diff of film.moments) {
    const now = Float32Array.from(diff);
    if (last) for (let i = 0; i < now.length; i++) now[i] += last[i];
    moments.push(now);
    last = now;
  }
  moments.push(moments[film.phases[film.back].at]);
  return moments;
}

// position is where a share (0 to 1) of the way from one phase to another lies among the
// moments. From the last phase of a round the way on leads to the first.
export function position(film, from, to, share) {
  const n = film.phases.length, a = film.phases[from], b = film.phases[to];
  if (!a || !b || !(share >= 0 && share <= 1)) throw new RangeError(`no way from ${from} to ${to} at ${share}`);
  const end = from === n - 1 && to === film.back && n > 1 ? a.to : b.at;
  return a.at + (end - a.at) * share;
}

// points fills out with the points at a position among the moments.
export function points(moments, at, out) {
  const i = Math.min(Math.floor(at), moments.length - 2), t = at - i, a = moments[i], b = moments[i + 1];
  for (let k = 0; k < out.length; k++) out[k] = a[k] + (b[k] - a[k]) * t;
  return out;
}

const tension = 0.2, handle = 0.36;

// outline is the path data of n points of v from k on: an open line, straight edges, or a
// smooth closed curve.
export function outline(v, k, n, open, sharp) {
  const r = Math.round;
  let d = `M${r(v[k])} ${r(v[k + 1])}`;
  if (open || sharp) {
    for (let i = 1; i < n; i++) d += `L${r(v[k + 2 * i])} ${r(v[k + 2 * i + 1])}`;
    return open ? d : d + "Z";
  }
  for (let i = 0; i < n; i++) {
    const h = k + 2 * ((i + n - 1) % n), p = k + 2 * i, q = k + 2 * ((i + 1) % n), s = k + 2 * ((i + 2) % n);
    const span = Math.hypot(v[q] - v[p], v[q + 1] - v[p + 1]);
    const ax = v[q] - v[h], ay = v[q + 1] - v[h + 1], al = Math.hypot(ax, ay), bx = v[s] - v[p], by = v[s + 1] - v[p + 1], bl = Math.hypot(bx, by);
    const ak = al ? Math.min(tension, span * handle / al) : 0, bk = bl ? Math.min(tension, span * handle / bl) : 0;
    d += `C${r(v[p] + ax * ak)} ${r(v[p + 1] + ay * ak)} ${r(v[q] - bx * bk)} ${r(v[q + 1] - by * bk)} ${r(v[q])} ${r(v[q + 1])}`;
  }
  return d + "Z";
}

// timeline is how a film that runs by itself spends one round: the way into each phase, a
// stay where it is held, and a pause before it begins again. Seconds.
export const pause = 0.8;
export function timeline(film) {
  const steps = [];
  let at = 0;
  const n = film.phases.length;
  for (let from = film.back; from < n; from++) {
    const to = from === n - 1 ? film.back : from + 1, into = film.phases[to];
    const stay = film.phases[from].stay + (from === film.back ? pause : 0);
    steps.push({ at, seconds: stay, from, to, still: true }, { at: at + stay, seconds: into.move, from, to, still: false });
    at += stay + into.move;
  }
  return { steps, seconds: at };
}

// momentAt is the position of a running film after so many seconds. The moments lie evenly in
// time: a movement already begins and ends softly in them.
export function momentAt(film, line, seconds) {
  const t = line.seconds ? ((seconds % line.seconds) + line.seconds) % line.seconds : 0;
  let s = line.steps[0];
  for (const q of line.steps) if (q.at <= t) s = q;
  return position(film, s.from, s.to, s.still || !s.seconds ? 0 : Math.min(1, (t - s.at) / s.seconds));
}

const ns = "http://www.w3.org/2000/svg";

// Film draws a film in an svg element.
export class Film {
  constructor(svg, doc) {
    this.doc = doc;
    this.svg = svg;
    this.moments = decode(doc);
    this.now = new Float32Array(this.moments[0].length);
    this.line = timeline(doc);
    svg.setAttribute("viewBox", doc.viewBox.join(" "));
    const make = (name, parent) => parent.appendChild(document.createElementNS(ns, name));
    svg.replaceChildren();
    make("g", svg).innerHTML = doc.floor;
    let group = make("g", svg);
    this.paths = doc.parts.map((p, i) => {
      if (i === doc.ground) {
        make("g", svg).innerHTML = doc.behind;
        group = make("g", svg);
      }
      group.setAttribute("transform", `scale(${1 / doc.scale})`);
      const path = make("path", group);
      path.dataset.part = p.id;
      if (p.width) {
        for (const [k, v] of [["fill", "none"], ["stroke", p.fill], ["stroke-width", p.width * doc.scale], ["stroke-linecap", "round"], ["stroke-linejoin", "round"]]) path.setAttribute(k, v);
      } else {
        path.setAttribute("fill", p.fill);
        if (p.edge) for (const [k, v] of [["stroke", p.edge], ["stroke-width", doc.scale], ["stroke-opacity", ".55"]]) path.setAttribute(k, v);
      }
      return path;
    });
    this.show(this.doc.back, this.doc.back, 0);
  }
  // show draws a share of the way between two phases.
  show(from, to, share) { this.draw(position(this.doc, from, to, share)); }
  // run draws where the film is after so many seconds of running by itself.
  run(seconds) { this.draw(momentAt(this.doc, this.line, seconds)); }
  draw(at) {
    if (at === this.at) return;
    this.at = at;
    const v = points(this.moments, at, this.now);
    let k = 0;
    this.doc.parts.forEach((p, i) => {
      let d = "";
      for (const n of p.points) {
        d += outline(v, k, n, !!p.width, !!p.sharp);
        k += 2 * n;
      }
      this.paths[i].setAttribute("d", d);
      if (p.fade) this.paths[i].setAttribute("opacity", v[k++] / 100);
    });
  }
}

// load fetches a film and draws it in an svg element of its own, named for who cannot see it.
export async function load(url, name) {
  const doc = await (await fetch(url, { headers: { Accept: "application/json" } })).json();
  const svg = document.createElementNS(ns, "svg");
  svg.setAttribute("role", "img");
  svg.setAttribute("aria-label", name);
  return { film: new Film(svg, doc), svg };
}

// Pages: every element with data-film runs its film and can be halted; who asked for less
// motion keeps the still picture.
if (typeof document !== "undefined") {
  const quiet = matchMedia("(prefers-reduced-motion: reduce)");
  for (const box of document.querySelectorAll("[data-film]")) {
    if (quiet.matches) continue;
    load(box.dataset.film, box.querySelector("img").alt).then(({ film, svg }) => {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "tool film-halt";
      let running = true, seconds = 0, last = null;
      const tick = now => {
        if (!running || !svg.isConnected) return;
        seconds += last === null ? 0 : Math.min(0.1, (now - last) / 1000);
        last = now;
        film.run(seconds);
        requestAnimationFrame(tick);
      };
      const set = on => {
        running = on;
        last = null;
        button.textContent = on ? "Pause" : "Play";
        if (on) requestAnimationFrame(tick);
      };
      button.addEventListener("click", () => set(!running));
      quiet.addEventListener("change", () => quiet.matches && set(false));
      box.replaceChildren(svg, button);
      set(true);
    }).catch(() => {}); // the still picture stays
  }
}
