// The rotor turned on its studs, the plate under it: steps by keys, drags on the rose. The server works it out and draws.

const here = () => document.querySelector("[data-turn]");
let asked = "";

function show(url) {
  if (url === asked) return;
  asked = url;
  history.replaceState(null, "", url);
  window.htmx.ajax("GET", url, { target: "#setting", swap: "innerHTML" });
}

document.addEventListener("click", (event) => {
  const link = event.target.closest("[data-step], [data-set]");
  if (!link || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  show(link.getAttribute("href"));
});

const KEYS = { ArrowLeft: "back", ArrowRight: "on", "[": "plate-back", "]": "plate-on" };
document.addEventListener("keydown", (event) => {
  if (event.target.matches("input:not([type=hidden]), textarea") || document.querySelector("dialog[open]")) return;
  const step = document.querySelector(`[data-step="${KEYS[event.key]}"]`);
  if (!step) return;
  event.preventDefault();
  show(step.getAttribute("href"));
});

const around = (event, svg) => {
  const box = svg.getBoundingClientRect();
  const side = Math.min(box.width, box.height);
  const x = event.clientX - box.left - box.width / 2;
  const y = event.clientY - box.top - box.height / 2;
  return { angle: (Math.atan2(x, -y) * 180) / Math.PI, radius: (Math.hypot(x, y) / side) * 520 };
};
const nearest = (angle, places) =>
  places.reduce((best, place) => {
    const off = (to) => Math.abs(((((to - angle) % 360) + 540) % 360) - 180);
    return off(place) < off(best) ? place : best;
  });
const numbers = (text) => (text ? text.split(",").map(Number) : []);

let drag = null;
document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest(".turnable svg");
  if (!svg) return;
  const { angle, radius } = around(event, svg);
  const data = here().dataset;
  const thin = radius < 106 && numbers(data.thinPositions).length > 0;
  drag = { thin, grabbed: angle, from: Number(thin ? data.thin : data.index) };
  event.preventDefault();
});
document.addEventListener("pointermove", (event) => {
  const svg = document.querySelector(".turnable svg");
  if (!drag || !svg) return;
  const data = here().dataset;
  const places = numbers(drag.thin ? data.thinPositions : data.positions);
  if (!places.length) return;
  const place = nearest(drag.from + around(event, svg).angle - drag.grabbed, places);
  const query = new URLSearchParams({ index_deg: drag.thin ? data.index : place });
  if (data.plate) {
    query.set("plate_mm", data.plate);
    query.set("plate_deg", drag.thin ? place : data.thin);
  }
  show(`${data.turn}?${query}`);
});
for (const end of ["pointerup", "pointercancel"]) document.addEventListener(end, () => (drag = null));
