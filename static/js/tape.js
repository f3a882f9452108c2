// The reading tape: keyboard first. What is typed goes to the server keystroke by keystroke, one request at a
// time and the newest text of a cell only; until the server has it, it is kept in this device's storage.

import { lost } from "./app.js";
import { turnRose } from "./rose.js";

const RETRY_MS = 1500;
const tape = document.getElementById("tape");
const cells = tape ? [...tape.querySelectorAll("input[data-slot]")] : [];
const storeKey = tape ? `tape:${tape.dataset.url}` : "";
const client = (sessionStorage.tapeClient ||= crypto.getRandomValues(new Uint32Array(3)).join("-"));
const pending = new Map(); // slot → {text, was, final, number}
let sending = null;
let retry = 0;
let number = Date.now(); // running number of edits; grows over reloads of this tab too

const slotOf = (cell) => Number(cell.dataset.slot);
const current = () => (document.activeElement?.dataset?.slot ? slotOf(document.activeElement) : Number(tape.dataset.first));

function keep() {
  if (pending.size) localStorage.setItem(storeKey, JSON.stringify([...pending]));
  else localStorage.removeItem(storeKey);
}

function look(cell) {
  const box = cell.closest(".cell");
  box.classList.toggle("long", cell.value.length > 5);
  box.classList.toggle("unsent", pending.has(slotOf(cell)) && retry > 0);
}

function note(cell, final) {
  if (cell.dataset.conflict !== undefined) return; // somebody else's text waits: Enter or Esc decides
  const slot = slotOf(cell);
  const before = pending.get(slot);
  if (!before && cell.value.trim() === cell.dataset.was && !(final && cell.dataset.open)) return;
  pending.set(slot, { text: cell.value, was: before?.was ?? cell.dataset.was, final, number: ++number });
  cell.dataset.open = final ? "" : "1";
  keep();
  send();
}

async function send() {
  const ready = [...pending].find(([, edit]) => !edit.held);
  if (sending !== null || !ready) return;
  const [slot, edit] = ready;
  sending = { slot, number: edit.number };
  const values = { slot, text: edit.text, was: edit.was, client, number: edit.number, final: edit.final ? "1" : "", at: current(), view: tape.dataset.view };
  try {
    await htmx.ajax("POST", tape.dataset.url, { source: tape, swap: "none", values });
  } catch {
    // no answer: settled() has already arranged to try again
  } finally {
    sending = null;
    if (retry === 0) send();
  }
}

function again() {
  window.clearTimeout(retry);
  lost(true);
  cells.forEach(look);
  retry = window.setTimeout(() => {
    retry = 0;
    send();
  }, RETRY_MS);
}

function settled(status) {
  if (!sending) return;
  const { slot, number: sent } = sending;
  if (status === 0 || status >= 500) return again();
  retry = 0;
  lost(false);
  const edit = pending.get(slot);
  if (edit?.number === sent) pending.delete(slot);
  keep();
  cells.forEach(look);
  if (status === 401 || status === 403) location.reload();
}

// What the server says the tape holds: cells that nobody is typing into follow it.
function follow({ typed, stored, slot, conflict }) {
  cells.forEach((cell) => {
    const k = slotOf(cell);
    if (conflict !== null && k === slot) {
      cell.dataset.conflict = conflict;
      pending.set(k, { text: cell.value, was: conflict, final: true, number: ++number, held: true });
    } else if (pending.has(k) && pending.get(k).number !== sending?.number) return;
    else if (cell.value.trim() !== typed[k] && !(cell === document.activeElement && (k === slot || !stored))) {
      cell.value = typed[k];
    }
    cell.dataset.was = typed[k];
    look(cell);
  });
}

function move(cell, by) {
  const next = cells[cells.indexOf(cell) + by];
  if (!next) return;
  next.focus();
  next.select();
}

// Somebody else typed here too: what stands in the cell now is what the person wants.
function resolve(cell) {
  if (cell.dataset.conflict === undefined) return;
  cell.dataset.was = cell.dataset.conflict;
  delete cell.dataset.conflict;
  pending.delete(slotOf(cell));
  cell.dataset.open = "1";
  note(cell, true);
}

function act(name) {
  return htmx.ajax("POST", tape.dataset[name], { source: tape, swap: "none", values: { at: current(), view: tape.dataset.view } });
}

function keydown(event) {
  const cell = event.target;
  if (event.key === "Enter" || event.key === "ArrowDown" || event.key === "ArrowUp") {
    event.preventDefault();
    if (event.key === "Enter") resolve(cell);
    note(cell, true);
    move(cell, event.key === "ArrowUp" || event.shiftKey ? -1 : 1);
  } else if (event.key === "Escape" && cell.dataset.conflict !== undefined) {
    cell.value = cell.dataset.conflict;
    resolve(cell);
  } else if (event.key.toLowerCase() === "z" && (event.ctrlKey || event.metaKey)) {
    event.preventDefault();
    act("undo");
  } else if (event.key.toLowerCase() === "z" && !event.altKey) {
    event.preventDefault();
    act("zero");
  }
}

function mark() {
  const slot = document.querySelector("#note .error")?.dataset.slot;
  cells.forEach((cell) => {
    const wrong = cell.dataset.slot === slot;
    if (wrong) cell.setAttribute("aria-invalid", "true");
    else if (slot !== undefined || !cell.closest(".cell").classList.contains("wrong") || !cell.value) cell.removeAttribute("aria-invalid");
    cell.closest(".cell").classList.toggle("wrong", cell.getAttribute("aria-invalid") === "true");
  });
}

if (tape) {
  cells.forEach((cell) => {
    cell.addEventListener("input", () => note(cell, false));
    cell.addEventListener("change", () => note(cell, true));
    cell.addEventListener("keydown", keydown);
    cell.addEventListener("focus", () => turnRose(slotOf(cell)));
    look(cell);
  });
  document.querySelectorAll("[data-act]").forEach((button) => button.addEventListener("click", () => act(button.dataset.act)));
  tape.addEventListener("htmx:afterRequest", (event) => {
    if (event.detail.pathInfo.requestPath === tape.dataset.url) settled(event.detail.xhr?.status ?? 0);
  });
  document.body.addEventListener("tape-state", (event) => follow(event.detail));
  document.body.addEventListener("htmx:afterSettle", () => {
    mark();
    turnRose(current(), { still: true });
  });
  window.addEventListener("online", send);
  window.addEventListener("beforeunload", (event) => {
    if (pending.size && retry) event.preventDefault();
  });

  // Readings that a lost connection or a stopped server left on this device.
  for (const [slot, edit] of JSON.parse(localStorage.getItem(storeKey) ?? "[]")) {
    const cell = cells[slot];
    if (!cell) continue;
    if (edit.held && edit.text.trim() !== cell.dataset.was) cell.dataset.conflict = cell.dataset.was;
    cell.value = edit.text;
    pending.set(slot, { ...edit, held: cell.dataset.conflict !== undefined, number: ++number });
  }
  cells[Number(tape.dataset.first)]?.focus();
  send();
}
