// Keys for a hand on glass: drawn under the tape while a cell is being typed, so that no keyboard of the device comes up
// over the rose. A press goes to the cell as a key does; the tape knows no difference.

import { insert } from "./gloves.js";

const KEPT = "keypad"; // "off" on a device whose hand types on something else
const pad = document.getElementById("keypad");
const cells = document.querySelectorAll("#tape input[data-slot]");
const choice = document.querySelector("[data-keypad]");
const isOn = () => localStorage.getItem(KEPT) !== "off";

function turn() {
  pad.hidden = !isOn();
  cells.forEach((cell) => (cell.inputMode = isOn() ? "none" : "decimal"));
  choice.textContent = isOn() ? choice.dataset.on : choice.dataset.off;
  choice.setAttribute("aria-pressed", String(isOn()));
}

const key = (cell, name) => cell.dispatchEvent(new KeyboardEvent("keydown", { key: name, bubbles: true, cancelable: true }));

const PRESS = {
  next: (cell) => key(cell, "Enter"),
  back: (cell) => key(cell, "ArrowUp"),
  delete(cell) {
    if (cell.selectionStart === cell.selectionEnd) cell.setSelectionRange(Math.max(cell.selectionEnd - 1, 0), cell.selectionEnd);
    insert(cell, "");
  },
  sign(cell) {
    const text = cell.value;
    cell.select();
    insert(cell, /^[-−]/.test(text) ? text.slice(1) : `-${text}`);
  },
};

if (pad && choice && matchMedia("(any-pointer: coarse)").matches) {
  choice.hidden = false;
  choice.addEventListener("click", () => {
    localStorage.setItem(KEPT, isOn() ? "off" : "on");
    turn();
  });
  // The cell keeps the focus.
  for (const event of ["pointerdown", "mousedown"]) pad.addEventListener(event, (down) => down.preventDefault());
  pad.addEventListener("click", ({ target }) => {
    const button = target.closest("button");
    const cell = document.activeElement;
    if (!button || !cell?.dataset?.slot || cell.readOnly) return;
    if (button.dataset.figure) insert(cell, button.dataset.figure);
    else PRESS[button.dataset.press]?.(cell);
  });
  turn();
}
