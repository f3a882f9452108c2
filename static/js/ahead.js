// Steps of the work without a line. A step that only wants to be done is pressed as ever; where no answer comes the press
// waits on this device, in its order, and the next step is shown from what the page has brought along, up to one that asks
// for more than a press. The server decides when the line is back; what it does not take is shown with its reason.

import { ask } from "./outbox.js";

const KEPT = "presses";
const PRESS_APART_MS = 350; // as in app.js: the second of two quick presses was meant for the step before
const RETRY_MS = 3000;
const person = document.body.dataset.person;
const page = document.querySelector(".run");
const form = document.querySelector("form[data-ahead]");
const steps = [...document.querySelectorAll("[data-step-ahead]")];
let sending = false;
let retry = 0;

function presses() {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "[]");
  } catch {
    return [];
  }
}

function keep(all) {
  localStorage.setItem(KEPT, JSON.stringify(all));
  show();
}

const mine = () => presses().filter((press) => press.person === person);

function show(asks = false) {
  const line = document.getElementById("pressed");
  if (!line) return;
  const waiting = mine();
  const refused = waiting.find((press) => press.why);
  line.hidden = !waiting.length && !asks;
  line.querySelector("[data-pressed=waits]").hidden = !waiting.length || Boolean(refused);
  line.querySelector("[data-pressed=refused]").hidden = !refused;
  line.querySelector("[data-pressed=asks]").hidden = !asks;
  line.querySelector("[data-count]").textContent = waiting.length;
  line.querySelector("[data-says]").textContent = refused?.says ?? "";
  line.querySelector("[data-why]").textContent = refused?.why ?? "";
}

// What this page shows next: the first of the steps it brought along that nobody has pressed here.
function shown() {
  const pressed = new Set(mine().filter((press) => press.url === form.action).map((press) => `${press.position}|${press.key}`));
  return steps.find((step) => !pressed.has(`${step.dataset.position}|${step.dataset.key}`));
}

function draw() {
  const step = shown();
  if (!step || step === steps[0]) return;
  const { position, key, press, place, part, asks } = step.dataset;
  document.getElementById("step-words").replaceChildren(step.content.cloneNode(true));
  form.elements.position.value = position;
  form.elements.key.value = key;
  page.classList.add("ahead");
  const where = page.querySelector(".run-where");
  where.firstChild.data = `${place} `;
  where.querySelector("span").textContent = part;
  const button = form.querySelector("[data-space]");
  button.querySelector("span").textContent = press;
  button.hidden = asks !== undefined;
  show(asks !== undefined);
}

// Send what waits, in its order; the first that is not taken stops the rest.
async function send() {
  if (sending) return "busy";
  sending = true;
  window.clearTimeout(retry);
  try {
    for (let next = mine()[0]; next; next = mine()[0]) {
      if (next.why) return "refused";
      const { position, key, at } = next;
      const late = Math.max(0, Math.round((Date.now() - at) / 1000));
      const answer = await ask(next.url, { position, key, late: Math.min(late, 86400) });
      if (answer.body?.refused) {
        keep(presses().map((press) => (press.at === at && press.key === key ? { ...press, why: answer.body.refused } : press)));
        return "refused";
      }
      if (!answer.body?.done) {
        retry = window.setTimeout(arrive, RETRY_MS);
        return "silent";
      }
      keep(presses().filter((press) => !(press.at === at && press.key === key)));
    }
    return "sent";
  } finally {
    sending = false;
  }
}

// Everything has arrived: a page of work that was drawn from the device is drawn anew.
async function arrive() {
  if ((await send()) === "sent" && page?.classList.contains("ahead")) location.assign(location.pathname);
}

if (form && steps.length) {
  document.addEventListener(
    "submit",
    async (event) => {
      if (event.target !== form) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      const now = Date.now();
      const since = now - Number(sessionStorage.getItem("pressed"));
      const step = shown();
      if ((since >= 0 && since < PRESS_APART_MS) || !step || step.dataset.asks !== undefined) return;
      sessionStorage.setItem("pressed", String(now));
      const says = step.content.querySelector(".run-says").textContent.trim();
      const before = mine().length;
      keep([...presses(), { url: form.action, position: step.dataset.position, key: step.dataset.key, says, at: now, person }]);
      if (before || document.body.dataset.kept !== undefined) {
        draw();
        return arrive();
      }
      const became = await send();
      if (became === "sent" || became === "refused") location.assign(location.pathname);
      else draw();
    },
    true,
  );
  draw();
}

document.querySelector("[data-forget-presses]")?.addEventListener("click", () => {
  keep(presses().filter((press) => press.person !== person));
  if (page) location.assign(location.pathname);
});

show(Boolean(form) && steps.length > 0 && shown()?.dataset.asks !== undefined && shown() !== steps[0]);
if (person && mine().length) arrive();
