// Two players beside each other: one is active and large, F8 changes between them; what is pressed goes to it.
const both = [...document.querySelectorAll(".b-one")];
function take(n) {
  both.forEach((s, i) => { s.classList.toggle("b-active", i === n); s.querySelector(".b-take").setAttribute("aria-pressed", String(i === n)); });
  both[n].querySelector("iframe").contentWindow.focus();
}
const other = () => take(both.findIndex(s => !s.classList.contains("b-active")));
both.forEach((s, i) => { s.querySelector(".b-take").onclick = () => take(i); });
addEventListener("keydown", e => { if (e.key === "F8") { e.preventDefault(); other(); } });
addEventListener("message", e => {
  if (e.origin !== location.origin) return;
  if (e.data === "other") other();
  if (e.data === "here") take(both.findIndex(s => s.querySelector("iframe").contentWindow === e.source));
});
