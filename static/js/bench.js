// The simulated corner: the hand turns the wheel, the needle follows. What the needle shows over one turn comes from the
// server, tenths of a µm a degree, one way and the other; this only draws it and says where the hand is.

const STEP_MS = 140; // a key held longer than this turns on
const SPEED = 45; // degrees a second while a key is held
const FAST = 160;
const DIVISION = 100; // tenths of a µm
const hand = document.getElementById("hand");
const stage = () => document.getElementById("stage");
const reading = () => document.getElementById("reading");
const own = document.getElementById("answer");

let at = 0; // hub angle under the tip
let way = 1;
let turn = 0;
let shown = { on: [], back: [] };
let ahead = null; // the next turn, asked for before this one ends
let held = 0; // degrees a second
let gliding = null;
let lifted = false;
let last = 0;

const numbers = (text) => text.split(" ").map(Number);
const within = (degrees) => ((degrees % 360) + 360) % 360;

function take() {
  const data = stage().dataset;
  shown = { on: numbers(data.on), back: numbers(data.back) };
  turn = Number(data.turn);
  ahead = null;
  draw();
}

function needle() {
  if (lifted) return -4000;
  const values = way < 0 ? shown.back : shown.on;
  const k = Math.floor(within(at));
  const share = within(at) - k;
  return values[k] * (1 - share) + values[k + 1] * share;
}

function draw() {
  const svg = stage().querySelector("svg");
  const centre = svg.dataset.centre;
  svg.querySelector(".wheel").setAttribute("transform", `rotate(${-at} ${centre} ${centre})`);
  svg.querySelectorAll(".upright").forEach((label) => label.setAttribute("transform", `rotate(${at} ${label.dataset.x} ${label.dataset.y})`));
  const lines = needle() / DIVISION;
  svg.querySelector(".hand").setAttribute("transform", `rotate(${lines * 3.6} ${svg.dataset.dialX} ${svg.dataset.dialY})`);
  const small = svg.querySelector(".small-hand");
  small.setAttribute("transform", `rotate(${lines * 0.36} ${small.dataset.x} ${small.dataset.y})`);
  hand.elements.angle.value = within(at).toFixed(2);
  hand.elements.way.value = way;
  hand.elements.turn.value = turn;
}

function speak() {
  const out = document.getElementById("needle");
  if (out) out.textContent = (needle() / DIVISION).toLocaleString(document.documentElement.lang, { minimumFractionDigits: 1, maximumFractionDigits: 1 });
}

function move(degrees) {
  if (!degrees) return;
  way = degrees < 0 ? -1 : 1;
  const before = at;
  at += degrees;
  if (way > 0 && Math.floor(at / 360) > Math.floor(before / 360)) goOn();
  else if (way > 0 && within(at) > 230) look();
  draw();
}

// The turn after this one: asked for in time, taken when the start comes round.
async function look() {
  if (ahead) return;
  ahead = { turn: turn + 1 };
  const body = new FormData(hand);
  body.set("act", "next_turn");
  body.set("value", String(turn + 1));
  const mounting = stage().dataset.mounting;
  try {
    const answer = await fetch(hand.action, { method: "POST", body, headers: { Accept: "application/json" } });
    if (!answer.ok || stage().dataset.mounting !== mounting) return;
    const told = await answer.json();
    const fresh = { turn: told.turn, on: numbers(told.on), back: numbers(told.back) };
    if (ahead?.due) use(fresh);
    else if (ahead) ahead = fresh;
  } catch {
    ahead = null; // the line is gone: the needle goes on as it went last turn
  }
}

function use(fresh) {
  shown = fresh;
  turn = fresh.turn;
  ahead = null;
  draw();
}

function goOn() {
  if (ahead?.on) return use(ahead);
  if (ahead) ahead.due = true;
  else look().then(() => ahead?.on && use(ahead));
}

function frame(now) {
  const seconds = Math.min((now - last) / 1000, 0.1);
  last = now;
  if (gliding !== null) {
    const left = gliding - at;
    const step = Math.sign(left) * Math.min(Math.abs(left), Math.max(Math.abs(left) * 6, 30) * seconds);
    move(step);
    if (Math.abs(gliding - at) < 0.01) {
      gliding = null;
      speak();
    }
  } else if (held) move(held * seconds);
  if (held || gliding !== null) window.requestAnimationFrame(frame);
}

function run() {
  last = performance.now();
  window.requestAnimationFrame(frame);
}

function act(name, value = "") {
  hand.elements.act.value = name;
  hand.elements.value.value = value;
  window.htmx.trigger(hand, "submit");
}

function glide(to) {
  gliding = to;
  if (window.matchMedia("(prefers-reduced-motion: reduce)").matches) {
    gliding = null;
    move(to - at);
    return;
  }
  run();
}

function nuts() {
  const form = document.getElementById("nuts");
  form.hidden = !form.hidden;
  if (!form.hidden) document.getElementById("nuts-order").focus();
  else stage().focus();
}

const KEYS = { z: "zero", m: "chalk", i: "clamp", c: "clean", t: "turn_studs", b: "bare", a: "arbor", k: "mike", p: "play" };
let timer = 0;

function letGo() {
  window.clearTimeout(timer);
  timer = 0;
  if (held) speak();
  held = 0;
}

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
  const field = event.target.closest("input:not([type=hidden]), select, textarea");
  const atReading = field && field.id === "reading";
  if (field && !atReading && !(field.id === "nuts-order" && event.key === "Escape")) return;
  const key = event.key.toLowerCase();
  if (key === "arrowright" || key === "arrowleft") {
    event.preventDefault();
    if (event.repeat || timer || held) return;
    const sign = key === "arrowright" ? 1 : -1;
    gliding = null;
    move(sign);
    speak();
    const speed = sign * (event.shiftKey ? FAST : SPEED);
    timer = window.setTimeout(() => {
      held = speed;
      run();
    }, STEP_MS);
  } else if (key === "arrowup" || key === "arrowdown") {
    event.preventDefault();
    act("tip", key === "arrowup" ? "out" : "in");
  } else if (atReading && field.value && key !== "escape") {
    return; // a reading that is being typed keeps its letters: 0.05 mm
  } else if (key === "n") {
    event.preventDefault();
    nuts();
  } else if (key === "escape" && !document.getElementById("nuts").hidden) {
    nuts();
  } else if (key === "l" && !event.repeat) {
    event.preventDefault();
    lifted = true;
    draw();
  } else if (KEYS[key]) {
    event.preventDefault();
    if (!event.repeat) act(KEYS[key]);
  } else if (/^[0-9.,+-]$/.test(key) && !field) {
    reading().focus(); // what is read is typed without reaching for the field
  }
});
document.addEventListener("keyup", (event) => {
  if (event.key.startsWith("Arrow")) letGo();
  if (event.key.toLowerCase() === "l" && lifted) {
    lifted = false;
    draw();
    speak();
  }
});
window.addEventListener("blur", letGo);

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-act], [data-turn-by], [data-nuts], [data-lift]");
  if (button?.dataset.act) act(button.dataset.act, button.dataset.value ?? "");
  else if (button?.dataset.turnBy) glide(at + Number(button.dataset.turnBy) * (360 / Number(stage().dataset.stations)));
  else if (button?.hasAttribute("data-nuts")) nuts();
  else if (button) {
    lifted = true;
    draw();
    window.setTimeout(() => {
      lifted = false;
      draw();
    }, 400);
  }
  const nut = event.target.closest("#stage [data-stud]");
  const order = document.getElementById("nuts-order");
  if (nut && order) {
    document.getElementById("nuts").hidden = false;
    order.value += nut.dataset.stud === "10" ? "0" : nut.dataset.stud;
    order.focus();
  }
});

document.addEventListener("submit", (event) => {
  if (event.target.id === "nuts") {
    event.preventDefault();
    const order = document.getElementById("nuts-order").value;
    if (order) act("nuts", order);
  } else if (event.target.id === "note") {
    event.preventDefault();
    const text = reading().value.trim();
    if (text) act("note", text);
  }
});

// What was typed and not noted outlives a line that is gone, a session that ended, a reload.
const KEPT = `bench:${location.pathname}`;
const keep = () => sessionStorage.setItem(KEPT, reading()?.value ?? "");
document.addEventListener("input", (event) => event.target.id === "reading" && keep());
document.body.addEventListener("htmx:afterSwap", keep);
const before = sessionStorage.getItem(KEPT);
if (before && reading() && !reading().value) reading().value = before;

document.body.addEventListener("htmx:afterSettle", (event) => {
  if (event.target.id !== "stage" && event.detail.elt?.id !== "stage") return;
  take();
  const answers = own?.contains(document.activeElement); // a hand that has gone on to the answer is left there
  if (stage().dataset.advance) {
    delete stage().dataset.advance;
    if (!answers) reading().focus();
    glide(at + 360 / Number(stage().dataset.stations));
  } else if (reading()?.getAttribute("aria-invalid") && !answers) {
    reading().focus();
    reading().select();
  } else if (!document.activeElement || document.activeElement === document.body) stage().focus();
});

// Drag the wheel, or turn it by the mouse's own.
let drag = null;
const place = (event) => {
  const svg = stage().querySelector("svg");
  const box = svg.querySelector(".wheel").getBoundingClientRect();
  return (Math.atan2(event.clientX - box.left - box.width / 2, -(event.clientY - box.top - box.height / 2)) * 180) / Math.PI;
};
document.addEventListener("pointerdown", (event) => {
  if (!event.target.closest("#stage .wheel") || event.target.closest("[data-stud]")) return;
  drag = place(event);
  gliding = null;
  event.preventDefault();
  stage().focus();
});
document.addEventListener("pointermove", (event) => {
  if (drag === null) return;
  const now = place(event);
  move(-((((now - drag + 180) % 360) + 360) % 360 - 180)); // the wheel goes with the hand: its angle under the tip against it
  drag = now;
});
for (const end of ["pointerup", "pointercancel"])
  document.addEventListener(end, () => {
    if (drag !== null) speak();
    drag = null;
  });
document.addEventListener(
  "wheel",
  (event) => {
    if (!event.target.closest("#stage svg")) return;
    event.preventDefault();
    gliding = null;
    move(Math.sign(event.deltaY) * (event.shiftKey ? 10 : 2));
  },
  { passive: false },
);

// The answer as far as it is typed is kept: a reload or another device goes on with it.
let keeping = 0;
own?.addEventListener("input", () => {
  window.clearTimeout(keeping);
  keeping = window.setTimeout(() => fetch(own.dataset.draft, { method: "POST", body: new FormData(own) }).catch(() => {}), 400);
});

// A setting is asked for where the remedy has one.
function settings() {
  const remedy = own?.querySelector("[name=remedy]");
  if (!remedy) return;
  for (const [name, of] of [["studs_on", "index"], ["plate", "plate"], ["thin_side", "plate"]])
    own.querySelector(`.field-${name}`).hidden = remedy.value !== of;
}
own?.addEventListener("change", settings);
settings();

take();
stage().focus();
