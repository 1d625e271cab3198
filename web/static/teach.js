// The player: runs the session's segments by the clock, shows one cue at a time, keeps
// its place through reloads and sends every log entry until the server has it.
(() => {
  "use strict";
  const id = document.body.dataset.session;
  const $ = n => document.getElementById(n);
  const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  const placeKey = "place " + id, queueKey = "queue " + id;
  let data, seg = 0, elapsed = 0, paused = false, last = 0, film = null, filmFor = "", filmTime = 0, partial = {}, sending = false;
  const json = (url, body) => fetch(url, { method: "POST", headers: { "Content-Type": "application/json", Accept: "application/json" }, body: JSON.stringify(body) });

  // Entries wait in the browser until the server has acknowledged them.
  const queue = () => JSON.parse(localStorage.getItem(queueKey) || "[]");
  function log(entry) {
    const s = data.segments[seg];
    const e = Object.assign({ key: crypto.randomUUID ? crypto.randomUUID() : Date.now() + "-" + Math.random(), item: s.item, side: s.side, rep: rep(s), s: Math.round(elapsed) }, entry);
    localStorage.setItem(queueKey, JSON.stringify(queue().concat(e)));
    flush();
  }
  async function flush() {
    if (sending) return;
    sending = true;
    try {
      for (let q = queue(); q.length; q = queue()) {
        const r = await json(`/teach/${id}/entries`, q[0]);
        if (!r.ok && r.status !== 422 && r.status !== 400) throw new Error(r.status);
        if (r.ok) { const { do: todo } = await r.json(); if (todo && todo.length) { paused = true; banner(todo.join(" ")); draw(); } }
        localStorage.setItem(queueKey, JSON.stringify(queue().slice(1)));
      }
      $("saved").textContent = "saved";
    } catch {
      $("saved").textContent = "kept on this device, sending again";
      setTimeout(flush, 3000);
    } finally { sending = false; }
  }
  function savePlace(toServer) {
    const place = { segment: seg, elapsed };
    localStorage.setItem(placeKey, JSON.stringify(place));
    if (toServer) json(`/teach/${id}/state`, place).catch(() => {});
  }
  const rep = s => s.kind === "work" ? Math.min(s.reps, Math.floor(elapsed / Math.max(1, s.hold_s + s.move_s)) + 1) : 0;

  // What was done on one side is summed over its sets and logged when the side is over.
  function leave(s, complete) {
    if (s.kind !== "work") return;
    const k = s.item + " " + s.side, it = data.items[s.item];
    const p = partial[k] = partial[k] || { sets: 0, reps: 0, total: 0 };
    const done = complete ? s.reps : Math.floor(elapsed / Math.max(1, s.hold_s + s.move_s));
    p.sets += 1; p.total += done; p.reps = Math.max(p.reps, done);
    p.short = p.short || !complete;
    const next = data.segments.slice(seg + 1).find(n => n.kind === "work");
    if (!next || next.item !== s.item || next.side !== s.side) {
      const pattern = /\d-\d/.test(it.dose);
      const amount = pattern ? { sets: 1, reps: p.total } : { sets: p.sets, reps: p.short ? Math.floor(p.total / p.sets) : p.reps };
      if (it.hold_breaths) amount.hold_breaths = it.hold_breaths; else if (it.hold_s) amount.hold_s = complete || s.reps > 1 ? it.hold_s : Math.round(elapsed);
      log({ kind: "done", done: amount, ended_by: p.short ? "choice" : "target" });
      delete partial[k];
    }
  }
  function go(to, complete) {
    if (to > seg && data.segments[seg]) leave(data.segments[seg], complete);
    seg = Math.max(0, to); elapsed = 0;
    if (seg >= data.segments.length) {
      savePlace(true);
      flush().finally(() => { location.href = `/teach/${id}/after`; });
      return;
    }
    savePlace(true); show();
  }
  function skip() {
    const item = data.segments[seg].item;
    log({ kind: "skip" });
    let to = seg; while (to < data.segments.length && data.segments[to].item === item) to++;
    partial = {}; seg = to - 1; elapsed = 0; go(to, true === false);
  }
  async function loadFilm(it, side) {
    const key = it.version + side;
    if (key === filmFor) return;
    filmFor = key; film = null;
    const q = (side === "left" || side === "right" ? `side=${side}&` : "") + `build=${data.build}&surface=${it.surface}` + (it.ease ? `&ease=${it.ease}` : "");
    try {
      const { load } = await import("/static/film.js");
      const { film: f, svg } = await load(`/figures/${it.version}/film?${q}`, it.name);
      if (filmFor !== key) return;
      film = f; filmTime = 0;
      $("film").replaceChildren(svg);
      if (still) f.show(it.effort, it.effort, 0);
    } catch { filmFor = ""; }
  }
  function show() {
    const s = data.segments[seg], it = data.items[s.item];
    $("name").textContent = it.name;
    $("mind").textContent = it.minds.join(" "); $("mind").hidden = !it.minds.length;
    loadFilm(it, s.side);
    const side = $("side");
    side.textContent = s.side === "left" || s.side === "right" ? s.side.toUpperCase() : s.side === "alternate" ? "sides in turn" : "";
    side.className = "t-side " + s.side;
    const nextItem = data.items[s.item + 1];
    $("next").textContent = nextItem ? "Next: " + nextItem.name + ", " + nextItem.dose : "Last one";
    draw();
  }
  function cue(s, it) {
    if (s.kind === "setup" || s.kind === "move") return it.setup[Math.min(it.setup.length - 1, Math.floor(elapsed / Math.max(1, s.seconds) * it.setup.length))];
    if (s.kind === "rest") return "Rest. Ask: how did that feel?";
    if (s.kind === "change") return "Change to the " + s.side + ": " + it.side_means;
    if (s.kind === "finish") return "Roll to the side, push up with the hands, slowly.";
    const k = Math.floor(elapsed / 12) % 4;
    return [it.out, it.in, it.image, "Watch: " + it.faults[0]][k];
  }
  function draw() {
    const s = data.segments[seg], it = data.items[s.item], left = Math.max(0, Math.ceil(s.seconds - elapsed));
    if (s.kind === "work") {
      const each = Math.max(1, s.hold_s + s.move_s), r = rep(s), inRep = elapsed - (r - 1) * each;
      const counting = s.hold_s >= 8;
      $("count").textContent = counting ? Math.max(0, Math.ceil(each - inRep)) : r;
      $("label").textContent = (s.reps > 1 ? (counting ? `hold ${r} of ${s.reps}` : `of ${s.reps}`) : "seconds") + (s.sets > 1 ? `, set ${s.set} of ${s.sets}` : "") + (s.extra ? ", extra" : "");
    } else { $("count").textContent = left; $("label").textContent = s.label; }
    $("cue").textContent = cue(s, it);
    const total = data.segments.reduce((a, x) => a + x.seconds, 0), before = data.segments.slice(0, seg).reduce((a, x) => a + x.seconds, 0);
    $("progress").setAttribute("style", ""); $("progress").style.width = (100 * (before + elapsed) / total) + "%";
    const rest = Math.max(0, Math.round(total - before - elapsed));
    $("clock").textContent = `${Math.floor(rest / 60)}:${String(rest % 60).padStart(2, "0")} left`;
    $("pause").textContent = paused ? "go on" : "pause";
  }
  function tick(now) {
    const dt = last ? Math.min(1, (now - last) / 1000) : 0;
    last = now;
    if (!paused) {
      elapsed += dt;
      const s = data.segments[seg];
      if (elapsed >= s.seconds) { elapsed = s.seconds; go(seg + 1, true); if (seg >= data.segments.length) return; }
      else draw();
      const own = data.items[data.segments[Math.min(seg, data.segments.length - 1)].item]; // a dose may have its own rate
      const period = 60 / ((own && own.rate) || data.rate), t = (now / 1000 % period) / period;
      const full = t < 0.4 ? t / 0.4 : 1 - (t - 0.4) / 0.6;
      $("breath").setAttribute("r", still ? 100 : 62 + 74 * (1 - Math.cos(Math.PI * full)) / 2);
      if (film && !still) { filmTime += dt; film.run(filmTime); }
    }
    requestAnimationFrame(tick);
  }
  function banner(text) { $("banner").textContent = text; $("banner").hidden = !text; }
  function mark(kind) {
    if (kind === "skip") { skip(); return; }
    log({ kind });
    if (kind === "pain") { $("pain").hidden = false; }
    if (kind === "symptom") { paused = true; banner("Stop this one. Do symptoms spread down a limb, or numbness, dizziness, chest signs? Then end and refer."); draw(); }
    if (kind === "form") { banner("The hold ends at the first loss of form. Rest, or ease: " + (data.items[data.segments[seg].item].stop[0] ? "stop at " + data.items[data.segments[seg].item].stop.join(", ") : "")); setTimeout(() => banner(""), 6000); go(seg + 1, false); }
  }
  function pain(value) {
    log({ kind: "pain", pain: value, where: $("where").value });
    $("pain").hidden = true;
    if (value >= data.stop_from) { paused = true; banner(`Pain ${value}: this client stops an exercise from ${data.stop_from}. Stop it, and find a comfortable position.`); }
    draw();
  }
  const toggle = () => { paused = !paused; if (!paused) banner(""); savePlace(true); draw(); };
  document.addEventListener("keydown", e => {
    if (e.ctrlKey || e.metaKey || e.altKey || e.target.tagName === "SELECT") return;
    if (!$("pain").hidden && /^[0-9]$/.test(e.key)) { pain(+e.key); return; }
    const marks = { f: "form", s: "symptom", p: "pain", e: "ease", k: "skip" };
    const k = e.key.toLowerCase();
    if (k === " ") { e.preventDefault(); toggle(); }
    else if (k === "arrowright") go(seg + 1, false);
    else if (k === "arrowleft") go(seg - 1, false);
    else if (k === "?") $("keys").showModal();
    else if (marks[k]) mark(marks[k]);
  });
  $("felt").onchange = e => { if (e.target.value) { log({ kind: "felt", felt: e.target.value }); e.target.value = ""; } };
  $("pause").onclick = toggle; $("forward").onclick = () => go(seg + 1, false); $("back").onclick = () => go(seg - 1, false);
  for (const b of document.querySelectorAll("[data-mark]")) b.onclick = () => mark(b.dataset.mark);
  for (let i = 0; i <= 10; i++) { const b = document.createElement("button"); b.type = "button"; b.textContent = i; b.onclick = () => pain(i); $("pains").append(b); }
  addEventListener("pagehide", () => { if (data) { savePlace(false); navigator.sendBeacon && navigator.sendBeacon(`/teach/${id}/state`, new Blob([JSON.stringify({ segment: seg, elapsed })], { type: "application/json" })); } });

  fetch(`/teach/${id}/data`, { headers: { Accept: "application/json" } }).then(r => r.json()).then(d => {
    data = d;
    const here = JSON.parse(localStorage.getItem(placeKey) || "null"), there = d.state && d.state.segment !== undefined ? d.state : null;
    const place = here || there;
    if (place) { seg = Math.min(place.segment, d.segments.length - 1); elapsed = place.elapsed || 0; }
    for (const word of d.felt) { const o = document.createElement("option"); o.value = word; o.textContent = word.replaceAll("-", " "); $("felt").append(o); }
    flush(); show(); setInterval(() => savePlace(false), 1000); requestAnimationFrame(tick);
  }).catch(() => { $("name").textContent = "The session could not be loaded. Reload this page; nothing is lost."; });
})();
