// The reading tape: keyboard first, made for a keypad, gloves and eyes on the dial. What is typed goes into the outbox
// keystroke by keystroke; the server draws, this moves the hand on.

import { ask, get, hurry, keepMine, list, listen, put, send, showing, underWay, forget } from "./outbox.js";
import { HAND_MS, insert, steady } from "./gloves.js";
import { turnRose } from "./rose.js";

const RETRY_MS = 1500;
const tape = document.getElementById("tape");
const cells = tape ? [...tape.querySelectorAll("input[data-slot]")] : [];
const slotOf = (cell) => Number(cell.dataset.slot);
const current = () => (document.activeElement?.dataset?.slot ? slotOf(document.activeElement) : Number(tape.dataset.first));
const waiting = []; // zero and undo asked for while the server was silent
let zeroSoon = 0; // Z waits a moment: a scanner that types a Z types on at once, a hand does not
let toAct = false; // Enter after the last reading: the next act, as soon as it is drawn
let pressed = ""; // the act that was pressed while readings were on their way

function look(cell) {
  const edit = get(tape.dataset.url, slotOf(cell));
  const box = cell.closest(".cell");
  box.classList.toggle("long", cell.value.length > 5);
  box.classList.toggle("five", cell.value.length === 5);
  box.classList.toggle("unsent", Boolean(edit) && document.body.classList.contains("waits"));
  box.classList.toggle("disputed", Boolean(edit?.held));
}

function note(cell, final) {
  const edit = get(tape.dataset.url, slotOf(cell));
  if (edit?.held && edit.text === cell.value) return;
  if (!edit && cell.value.trim() === cell.dataset.was && !cell.dataset.open) return;
  cell.dataset.open = final ? "" : "1";
  if (!final) pressed = ""; // whoever types on has not gone on
  const rests = final && cell.dataset.put === cell.value;
  cell.dataset.put = cell.value;
  put(tape.dataset.url, slotOf(cell), { text: cell.value, was: cell.dataset.was, final, rests, label: `${tape.dataset.name} · ${cell.getAttribute("aria-label")}` });
  if (edit?.held) disputes();
}

// What the server says the tape holds: cells that nobody is typing into follow it.
function follow({ typed, wrong }) {
  cells.forEach((cell) => {
    const k = slotOf(cell);
    const edit = get(tape.dataset.url, k);
    if (!edit && cell.value.trim() !== typed[k] && !(cell === document.activeElement && cell.dataset.open)) {
      cell.value = typed[k];
      if (cell === document.activeElement) cell.select();
    }
    // One entry, from its first key to its Enter, stands against what was there when it began.
    if (!cell.dataset.open) cell.dataset.was = typed[k];
    // A cell with newer text of its own is judged by the answer to that.
    if (!edit) {
      if (k in wrong) cell.setAttribute("aria-invalid", "true");
      else cell.removeAttribute("aria-invalid");
      cell.closest(".cell").classList.toggle("wrong", k in wrong);
    }
  });
}

function flag(slots) {
  cells.forEach((cell) => cell.closest(".cell").classList.toggle("flagged", slots.includes(slotOf(cell))));
}

function enter(cell) {
  cell.focus();
  cell.select();
}

function move(cell, by) {
  const next = cells[cells.indexOf(cell) + by];
  if (next) return enter(next);
  cell.select();
  if (by < 0) return;
  const empty = cells.find((other) => other.value.trim() === "" && !other.dataset.optional);
  if (empty) return enter(empty);
  toAct = true;
  hurry();
  lead();
}

const nextAct = () => document.querySelector("#next [data-next]");
const named = (act) => act && `${act.href ?? act.form.action} ${act.firstElementChild.textContent}`;

// The next act is not shown to the hand before the last reading has been judged. One that was pressed before is done
// then, where it is still the same; where the reading made it another one, that is for the hand to see first.
function lead() {
  if (!toAct || underWay(tape.dataset.url)) return;
  toAct = false;
  const act = nextAct();
  const same = pressed && pressed === named(act);
  pressed = "";
  act?.focus();
  if (same) act.click();
}

// Somebody else typed here too: the person decides, in the cell or by the buttons.
function disputes() {
  const rows = document.getElementById("disputes");
  const template = rows.querySelector("template");
  rows.querySelectorAll("li").forEach((row) => row.remove());
  for (const edit of list(tape.dataset.url).filter((each) => each.held)) {
    const row = template.content.cloneNode(true);
    row.querySelector("li").dataset.of = edit.slot;
    row.querySelector("[data-label]").textContent = cells[edit.slot]?.getAttribute("aria-label") ?? "";
    row.querySelector("[data-theirs]").textContent = edit.theirs || "–";
    row.querySelector("[data-yours]").textContent = edit.text || "–";
    row.querySelector("[data-keep]").addEventListener("click", () => resolve(edit, true));
    row.querySelector("[data-take]").addEventListener("click", () => resolve(edit, false));
    rows.append(row);
  }
  hints();
}

// A key is named where it works: Enter and Esc decide in the cell itself.
function hints() {
  document.querySelectorAll("#disputes li").forEach((row) => {
    const cell = cells[row.dataset.of];
    row.querySelector("[data-keep] kbd").hidden = document.activeElement !== cell || !cell.dataset.seen;
    row.querySelector("[data-take] kbd").hidden = document.activeElement !== cell;
  });
}

function resolve(edit, keep) {
  const cell = cells[edit.slot];
  if (keep) keepMine(edit.url, edit.slot, edit.theirs);
  else {
    cell.value = edit.theirs;
    cell.dataset.was = edit.theirs;
    forget(edit.url, edit.slot);
  }
  cells.forEach(look);
  disputes();
  enter(cell);
}

function say(which) {
  const note_ = document.getElementById("waits-for");
  note_.querySelectorAll("[data-act-waits]").forEach((part) => (part.hidden = part.dataset.actWaits !== which));
}

// Zero and undo are about the whole tape: they wait until every reading of it is there, and say so.
async function act() {
  const name = waiting[0];
  if (!name) return say("");
  if (underWay(tape.dataset.url)) {
    say(name);
    return hurry();
  }
  const answer = await ask(tape.dataset[name], showing());
  if (answer.body?.state) {
    waiting.shift();
    take(answer.body);
  } else if (answer.status === 0 || answer.status === 401 || answer.status >= 500) {
    say(name);
    window.setTimeout(act, RETRY_MS);
    return;
  } else waiting.shift();
  act();
}

function begin(name) {
  if (waiting.length) return;
  if (document.activeElement?.dataset.open) note(document.activeElement, true); // what is half typed counts as typed
  waiting.push(name);
  act();
}

// What a listener hears: a state that changed, not every figure; all of it on demand.
const figures = () => [...document.querySelectorAll("#verdict .figure")].map((figure) => ({
  name: figure.querySelector("dt")?.textContent.trim(),
  amount: figure.querySelector(".amount")?.textContent.trim(),
  state: figure.querySelector("strong")?.textContent.trim(),
}));
let heard = new Map();
function announce(everything = false) {
  const stop = document.querySelector("#stop .stop")?.textContent.trim() ?? "";
  const now = new Map([["stop", stop], ...figures().map(({ name, state }) => [name, state])]);
  const said = figures()
    .filter(({ name, state }) => everything || (heard.has(name) && heard.get(name) !== state))
    .map(({ name, amount, state }) => `${name} ${everything ? amount : ""} ${state}`);
  if (stop && (everything || heard.get("stop") !== stop)) said.unshift(stop);
  if (said.length) document.getElementById("announce").textContent = said.join(". ");
  heard = now;
}

function take({ state, flagged, html }) {
  follow(state);
  if (html) {
    const onAct = document.activeElement?.closest("#next") !== null;
    window.htmx.swap(document.body, html, { swapStyle: "none" });
    if (onAct) nextAct()?.focus();
  }
  if (flagged) flag(flagged);
  cells.forEach(look);
  disputes();
  announce();
  turnRose(current(), { still: true });
  lead();
}

function keydown(event) {
  const cell = event.target;
  const edit = get(tape.dataset.url, slotOf(cell));
  const letter = event.key.toLowerCase();
  if (zeroSoon) {
    window.clearTimeout(zeroSoon);
    zeroSoon = 0;
    insert(cell, "z");
  }
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) return; // the brass act, wherever one stands
  if (event.key === "Enter" || event.key === "ArrowDown" || event.key === "ArrowUp") {
    event.preventDefault();
    // A dispute that came up under the hand is not decided by the Enter already on its way: only by coming back to it.
    if (event.key === "Enter" && edit?.held && cell.dataset.seen) return resolve(edit, true);
    note(cell, true);
    move(cell, event.key === "ArrowUp" || event.shiftKey ? -1 : 1);
  } else if (event.key === "Escape" && edit?.held) {
    resolve(edit, false);
  } else if (letter === "z" && (event.ctrlKey || event.metaKey)) {
    event.preventDefault();
    begin("undo");
  } else if (letter === "z" && !event.altKey) {
    event.preventDefault();
    zeroSoon = window.setTimeout(() => {
      zeroSoon = 0;
      begin("zero");
    }, HAND_MS);
  } else if (event.key === " " && cell.selectionEnd - cell.selectionStart === cell.value.length) {
    event.preventDefault(); // a space alone is no reading: it must not wipe out the one that stands here
  }
}

// What was pressed before this page could hear it (early-keys.js).
function typeEarly(keys) {
  for (const key of keys) {
    const cell = document.activeElement;
    if (!cell?.dataset?.slot) return;
    if (key === "Enter") {
      note(cell, true);
      move(cell, 1);
    } else if (key === "Backspace") {
      if (cell.selectionStart === cell.selectionEnd) cell.setSelectionRange(cell.selectionEnd - 1, cell.selectionEnd);
      insert(cell, "");
    } else if (key !== " " && key.toLowerCase() !== "z") insert(cell, key);
  }
}

if (tape) {
  cells.forEach((cell) => {
    steady(cell);
    cell.addEventListener("input", () => note(cell, false));
    cell.addEventListener("change", () => note(cell, true));
    cell.addEventListener("blur", () => cell.dataset.open && note(cell, true));
    cell.addEventListener("keydown", keydown);
    cell.addEventListener("focus", () => {
      cell.select(); // what is typed replaces what stands here
      cell.dataset.seen = get(tape.dataset.url, slotOf(cell))?.held ? "1" : "";
      hints();
      turnRose(slotOf(cell));
    });
    cell.addEventListener("pointerdown", () => {
      if (cell !== document.activeElement) cell.addEventListener("click", () => cell.select(), { once: true });
    });
  });
  document.querySelectorAll("[data-act]").forEach((button) => button.addEventListener("click", () => begin(button.dataset.act)));
  listen(({ url, body }) => {
    if (body?.state && url === tape.dataset.url) take(body);
    else if (body?.html) window.htmx.swap(document.body, body.html, { swapStyle: "none" });
    cells.forEach(look);
    disputes();
    lead();
    if (waiting.length && !underWay(tape.dataset.url)) act();
  });
  document.addEventListener("outbox", () => cells.forEach(look));
  // What a device has sent: the hand that waits at a filled cell goes on to the next empty one.
  document.addEventListener("heard", ({ detail }) => {
    take(detail);
    const cell = document.activeElement;
    if (cell?.dataset?.slot && cell.value.trim() && !cell.dataset.open && !get(tape.dataset.url, slotOf(cell))) {
      const empty = cells.find((other) => other.value.trim() === "");
      if (empty) enter(empty);
    }
  });

  // The brass act never runs ahead of readings on their way; a server that stays silent holds nobody up.
  document.addEventListener("click", (event) => {
    const next = event.target.closest?.("#next [data-next]");
    if (!next || !underWay(tape.dataset.url) || document.getElementById("lost")?.hidden === false) return;
    event.preventDefault();
    toAct = true;
    pressed = named(next);
    hurry();
    lead();
  }, true);

  announce();
  document.addEventListener("keydown", (event) => {
    if (!event.altKey || event.key !== "0") return;
    event.preventDefault();
    announce(true);
  });

  // Readings that a lost connection, a stopped server or a reload left on this device.
  for (const edit of list(tape.dataset.url)) {
    const cell = cells[edit.slot];
    if (cell) cell.value = edit.text;
  }
  cells.forEach(look);
  disputes();
  const first = cells[Number(tape.dataset.first)];
  if (first && tape.dataset.closed === undefined) {
    enter(first);
    typeEarly(window.earlyKeys?.() ?? []);
  } else window.earlyKeys?.();
  send();
} else window.earlyKeys?.();
