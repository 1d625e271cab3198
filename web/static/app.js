// Small helpers: "?" lists the keys, what waits is sent, signing out leaves nothing behind.
(() => {
  "use strict";
  // Choosing a kind of session proposes its minutes, unless somebody chose them already.
  document.addEventListener("change", e => {
    if (e.target.name === "minutes") e.target.dataset.touched = "";
    const kind = e.target.closest && e.target.closest("select[name=template]");
    const asked = kind && Number(kind.selectedOptions[0].dataset.minutes);
    const minutes = asked && kind.form.elements.minutes;
    if (!minutes || minutes.dataset.touched !== undefined) return;
    const fits = [...minutes.options].find(o => Number(o.value) >= asked) || minutes.options[minutes.options.length - 1];
    minutes.value = fits.value;
  });
  // What a player left in this browser is sent from any page, until the server has it.
  if (!document.getElementById("outbox") && Object.keys(localStorage).some(k => k.startsWith("mark "))) import("/static/outbox.js").then(async o => { for (const s of o.sessions()) await o.drain(s); });
  // Signing out waits for what is not stored yet, and takes what was kept in this browser with it.
  const out = document.querySelector("form[action='/sign-out']");
  if (out) out.addEventListener("submit", async e => {
    if (out.dataset.sure) return;
    e.preventDefault();
    let waits = 0;
    if (Object.keys(localStorage).some(k => k.startsWith("mark "))) { const o = await import("/static/outbox.js"); for (const s of o.sessions()) waits += await o.drain(s); }
    if (waits && !confirm(`${waits} ${waits === 1 ? "entry is" : "entries are"} not stored yet and would be lost. Sign out all the same?`)) return;
    document.body.dataset.account = ""; // nothing is kept any more
    localStorage.clear(); sessionStorage.clear();
    out.dataset.sure = "yes";
    setTimeout(() => out.requestSubmit()); // not while this one is still under way
  });
  const dialog = document.getElementById("keys");
  document.addEventListener("keydown", e => {
    if (e.key !== "?" || /^(INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName) || !dialog) return;
    const more = document.getElementById("bench") ? "<li>← → open the exercise before or after, with Shift they move it</li><li>+ − longer, shorter · H G harder, gentler rung · K lock</li><li>Delete removes, T takes out for good</li><li>W to the swaps, N to adding</li><li>U undo, Y do again, B Rebuild around what is locked</li>" : "";
    dialog.innerHTML = "<h2>Keys</h2><ul>" + more + "<li>Tab and Enter reach and press everything</li><li>? shows this list</li></ul><form method='dialog'><button class='btn btn-outline-secondary'>Close</button></form>";
    dialog.showModal();
  });
})();
