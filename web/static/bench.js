// The session's working surface: keys, dragging on the line, and a name for this view so
// that the server sends only the parts that changed. Everything also works by buttons.
(() => {
  "use strict";
  const bench = document.getElementById("bench");
  if (!bench || !window.htmx) return;
  const id = bench.dataset.plan;
  const view = document.getElementById("view");
  const fresh = () => {
    view.value = Array.from(crypto.getRandomValues(new Uint8Array(12)), b => b.toString(16).padStart(2, "0")).join("");
  };
  fresh();
  // Links ask for an item by GET; they tell the view in a header.
  bench.addEventListener("htmx:configRequest", e => { e.detail.headers["X-View"] = view.value; });
  // After a lost answer the next one is whole.
  for (const name of ["htmx:sendError", "htmx:responseError", "htmx:timeout"]) bench.addEventListener(name, () => {
    fresh();
    document.getElementById("said").textContent = "That did not arrive. What was saved before is kept; try again.";
  });
  // Minutes, kind and place that are chosen change nothing until the session is rebuilt: that is said, and what is
  // chosen stays chosen while other parts of the page come anew.
  let chosen = {};
  const applied = s => [...s.options].find(o => o.defaultSelected) || s.options[0];
  const noted = () => {
    const open = Object.keys(chosen).map(n => bench.elements[n]), note = document.getElementById("not-applied");
    note.hidden = !open.length;
    note.textContent = open.length ? `Chosen, not applied yet: ${open.map(s => s.labels[0].textContent.toLowerCase() + " " + s.selectedOptions[0].textContent).join(", ")}. Rebuild applies it.` : "";
  };
  bench.addEventListener("change", e => {
    if (!["minutes", "template", "skill", "place"].includes(e.target.name)) return;
    if (e.target.selectedOptions[0] === applied(e.target)) delete chosen[e.target.name]; else chosen[e.target.name] = e.target.value;
    noted();
  });
  bench.addEventListener("htmx:beforeRequest", e => { if (/\/rebuild$/.test(e.detail.pathInfo.requestPath)) chosen = {}; });
  bench.addEventListener("htmx:afterSettle", () => {
    for (const n of Object.keys(chosen)) bench.elements[n].value = chosen[n];
    noted();
  });
  // On a narrow screen the line is wider than the page and moves under the finger; where it
  // stands survives its being sent again, and what is open is in sight.
  let left = 0;
  const line = () => document.getElementById("bench-line");
  const inSight = () => {
    const box = line(), here = box && box.querySelector(".stop-link[aria-current]");
    if (!here || box.scrollWidth <= box.clientWidth) return;
    const a = here.getBoundingClientRect(), b = box.getBoundingClientRect();
    if (a.left < b.left || a.right > b.right) box.scrollLeft += a.left + a.width / 2 - b.left - b.width / 2;
  };
  bench.addEventListener("htmx:beforeRequest", () => { left = line().scrollLeft; });
  bench.addEventListener("htmx:afterSettle", () => { if (line().scrollLeft !== left) line().scrollLeft = left; inSight(); });
  inSight();
  let focus = "";
  bench.addEventListener("htmx:beforeRequest", () => { focus = document.activeElement ? document.activeElement.id : ""; });
  bench.addEventListener("htmx:afterSettle", () => {
    if (document.activeElement && document.activeElement !== document.body) return;
    const again = document.getElementById(focus);
    const target = again && !again.disabled ? again : document.querySelector(".stop-link[aria-current]");
    if (target) target.focus({ preventScroll: true });
  });
  // The asking element is never the form itself: htmx would send it where its last button led.
  const post = (from, values) => htmx.ajax("POST", "/plans/" + id + "/edit", { source: from, target: "#said", swap: "innerHTML", values });
  const current = () => Number(bench.querySelector("input[name=at]").value);
  const stops = () => [...document.querySelectorAll(".stop-link")];
  const open = by => {
    const all = stops(), at = all.findIndex(s => s.hasAttribute("aria-current"));
    const next = all[Math.max(0, Math.min(all.length - 1, at + by))];
    if (next) { next.focus({ preventScroll: true }); htmx.ajax("GET", next.getAttribute("href"), { source: next, target: "#said", swap: "innerHTML" }); }
  };
  const keys = { "+": "longer", "-": "shorter", k: "lock", Delete: "remove", t: "ban", h: "harder", g: "easier", u: "undo", y: "redo", b: "rebuild" };
  // Enter in a typed dose takes that dose, and not whatever button comes first in the form.
  document.addEventListener("keydown", e => {
    if (e.key === "Enter" && e.target.closest(".typed input")) {
      e.preventDefault();
      document.getElementById("op-dose")?.click();
    }
  });
  document.addEventListener("keydown", e => {
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName) || e.ctrlKey || e.metaKey) return;
    if (e.key === "ArrowRight" || e.key === "ArrowLeft") {
      const by = e.key === "ArrowRight" ? 1 : -1;
      e.preventDefault();
      if (e.shiftKey) { const b = document.getElementById(by > 0 ? "op-down" : "op-up"); if (b && !b.disabled) b.click(); } else open(by);
      return;
    }
    if (e.key === "w") { const first = document.querySelector(".swap-list button"); if (first) first.focus(); return; }
    if (e.key === "n") { document.getElementById("add").focus(); e.preventDefault(); return; }
    const op = keys[e.key];
    const button = op && document.getElementById("op-" + op);
    if (button && !button.disabled) { e.preventDefault(); button.click(); }
  });
  // Dragging a picture along the line puts the exercise where it is let go.
  let drag = null;
  bench.addEventListener("pointerdown", e => {
    const stop = e.target.closest && e.target.closest(".stop-link");
    if (stop && e.button === 0) drag = { stop, x: e.clientX, moved: false };
  });
  const inPicture = (svg, x) => { const m = svg.getScreenCTM(); return (x - m.e) / m.a; };
  document.addEventListener("pointermove", e => {
    if (!drag || Math.abs(e.clientX - drag.x) < 8 && !drag.moved) return;
    drag.moved = true;
    const svg = drag.stop.ownerSVGElement;
    drag.stop.setAttribute("transform", "translate(" + (inPicture(svg, e.clientX) - inPicture(svg, drag.x)) + " 0)");
    drag.stop.classList.add("dragged");
  });
  document.addEventListener("pointerup", e => {
    if (!drag) return;
    const d = drag;
    drag = null;
    if (!d.moved) return;
    const x = inPicture(d.stop.ownerSVGElement, e.clientX), n = Number(d.stop.dataset.n);
    const others = stops().filter(s => s !== d.stop);
    const before = others.filter(s => Number(s.dataset.x) < x);
    const to = before.length ? Number(before[before.length - 1].dataset.n) + (Number(before[before.length - 1].dataset.n) < n ? 1 : 0) : 0;
    const stay = ev => { ev.preventDefault(); ev.stopPropagation(); };
    d.stop.addEventListener("click", stay, { capture: true, once: true });
    setTimeout(() => d.stop.removeEventListener("click", stay, true), 50);
    if (to === n) { d.stop.removeAttribute("transform"); d.stop.classList.remove("dragged"); return; }
    post(d.stop, { op: "move", item: n, to, at: current() });
  });
  // The finger turned out to move the page.
  document.addEventListener("pointercancel", () => {
    if (!drag) return;
    drag.stop.removeAttribute("transform");
    drag.stop.classList.remove("dragged");
    drag = null;
  });
  bench.addEventListener("dragstart", e => e.preventDefault());
})();
