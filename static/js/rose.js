// Turn the drawn wheel so that the current station stands under the indicator. The server draws; this only turns.

const STEP_MS = 160;
let running = 0;

const shortest = (degrees) => ((((degrees + 180) % 360) + 360) % 360) - 180;

function place(svg, at) {
  const centre = svg.dataset.centre;
  svg.querySelector(".wheel").setAttribute("transform", `rotate(${-at} ${centre} ${centre})`);
  svg.querySelectorAll(".upright").forEach((label) => {
    label.setAttribute("transform", `rotate(${at} ${label.dataset.x} ${label.dataset.y})`);
  });
  svg.dataset.at = String(at);
}

export function turnRose(station, { still = false } = {}) {
  const svg = document.querySelector("#rose svg");
  if (!svg?.querySelector(".wheel")) return; // a map or an overlay does not turn
  const labels = [...svg.querySelectorAll(".station-label")];
  const ticks = [...svg.querySelectorAll(".tick")];
  if (!labels.length) return;
  const k = station < labels.length ? station : 0; // the way back is read at the first station
  labels.forEach((label, i) => label.classList.toggle("current", i === k));
  ticks.forEach((tick, i) => tick.classList.toggle("current", i === k));
  const label = svg.querySelector(".at-label");
  if (label) label.textContent = String(k + 1);
  const from = Number(svg.dataset.at);
  const way = shortest((360 * k) / labels.length - from);
  window.cancelAnimationFrame(running);
  if (still || Math.abs(way) < 0.05 || window.matchMedia("(prefers-reduced-motion: reduce)").matches) {
    place(svg, from + way);
    return;
  }
  const start = performance.now();
  const step = (now) => {
    const share = Math.min(1, (now - start) / STEP_MS);
    place(svg, from + way * share * (2 - share));
    if (share < 1) running = window.requestAnimationFrame(step);
  };
  running = window.requestAnimationFrame(step);
}
