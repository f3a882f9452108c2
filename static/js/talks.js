// Instruments that talk: what a device sent is asked for while the tape listens; a cable types into the current cell as
// a hand does; a tick for a reading taken, a low tone for one that is doubted.

import { showing } from "./outbox.js";

const EVERY_MS = 800;
const AWAY_MS = 4000; // after an answer that did not come
const box = document.getElementById("talks");
const SOUND = "talks:sound";
let sound = localStorage.getItem(SOUND) === "on";
let audio = null;

export function tone(taken) {
  if (!sound) return;
  audio ??= new AudioContext();
  const now = audio.currentTime;
  const wave = audio.createOscillator();
  const gain = audio.createGain();
  wave.frequency.value = taken ? 1400 : 220;
  gain.gain.setValueAtTime(taken ? 0.12 : 0.25, now);
  gain.gain.exponentialRampToValueAtTime(0.001, now + (taken ? 0.05 : 0.4));
  wave.connect(gain).connect(audio.destination);
  wave.start(now);
  wave.stop(now + (taken ? 0.06 : 0.45));
  document.dispatchEvent(new CustomEvent("tone", { detail: taken ? "taken" : "doubted" }));
}

async function ask() {
  let wait = EVERY_MS;
  try {
    const query = new URLSearchParams({ since: box.dataset.since, ...showing() });
    const answer = await fetch(`${box.dataset.heard}?${query}`, { headers: { Accept: "application/json" } });
    if (!answer.ok) wait = AWAY_MS;
    else {
      const told = await answer.json();
      if (!told.listening) return;
      box.dataset.since = told.since;
      if (told.strip) document.getElementById("heard").innerHTML = told.strip;
      told.news.forEach((outcome, k) => window.setTimeout(() => tone(outcome === "taken"), 120 * k));
      if (told.state) document.dispatchEvent(new CustomEvent("heard", { detail: told }));
    }
  } catch {
    wait = AWAY_MS; // the line is gone: what the device sent is on the server, and comes when it is back
  }
  window.setTimeout(ask, wait);
}

// One line of an indicator: a number, with a unit where it sends one.
const LINE = /^[^\d+\-.]*([+-]?\s?\d*[.,]?\d+)\s*(mm|in|um|µm|thou)?\s*$/i;

function typed(text) {
  const cell = document.activeElement?.dataset?.slot ? document.activeElement : document.querySelector("#tape input[data-slot]:not([readonly])");
  if (!cell) return;
  cell.focus();
  cell.value = text;
  cell.dispatchEvent(new InputEvent("input", { bubbles: true, data: text, inputType: "insertText" }));
  cell.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
  tone(true);
}

async function cable() {
  const says = document.getElementById("cable-says");
  says.textContent = "";
  let port;
  try {
    port = await navigator.serial.requestPort();
    await port.open({ baudRate: 9600 });
  } catch {
    return; // none was chosen
  }
  const decoder = new TextDecoder();
  let rest = "";
  try {
    const reader = port.readable.getReader();
    for (;;) {
      const { value, done } = await reader.read();
      if (done) break;
      rest = (rest + decoder.decode(value, { stream: true })).slice(-400);
      const lines = rest.split(/[\r\n]+/);
      rest = lines.pop();
      for (const line of lines.filter((each) => each.trim())) {
        const match = LINE.exec(line.trim());
        if (match) typed(`${match[1].replace(/\s/, "")}${match[2] ? ` ${match[2]}` : ""}`);
        else {
          says.textContent = says.dataset.garbage.replace("%s", line.slice(0, 20));
          tone(false);
        }
      }
    }
  } catch {
    // pulled out
  }
  says.textContent = says.dataset.lost;
  tone(false);
}

if (box) {
  const button = box.querySelector("[data-sound]");
  const show = () => {
    button.textContent = sound ? button.dataset.on : button.dataset.off;
    button.setAttribute("aria-pressed", String(sound));
  };
  button.addEventListener("click", () => {
    sound = !sound;
    localStorage.setItem(SOUND, sound ? "on" : "off");
    show();
    tone(true);
  });
  show();
  const plug = box.querySelector("[data-cable]");
  plug.hidden = !navigator.serial;
  plug.addEventListener("click", cable);
  if (box.dataset.heard) ask();
}
