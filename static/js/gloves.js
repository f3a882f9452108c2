// Keys as they come from a bay: a keypad without NumLock, a glove that bounces, a caliper or scanner that types.

const BOUNCE_MS = 30; // the same key twice within this is one press of a glove
export const HAND_MS = 60; // no hand in a glove finds the next key sooner
const BURST_MS = 1500; // an instrument that has typed two different keys faster than any hand types on for so long
const KEYPAD = /^Numpad(\d|Decimal)$/;

export function insert(field, text) {
  field.setRangeText(text, field.selectionStart, field.selectionEnd, "end");
  field.dispatchEvent(new InputEvent("input", { bubbles: true, data: text, inputType: "insertText" }));
}

let last = { code: "", at: -Infinity, fast: false }; // over all fields: Enter has moved on when its bounce comes
let held = null;
let instrument = -Infinity; // when two different keys came faster than any hand finds them

// Make a field steady. A doubled key is held back for a moment: an instrument goes on typing as fast, a glove does not.
export function steady(field) {
  field.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const digit = event.key.length === 1;
    const gap = event.timeStamp - last.at;
    const fast = gap < BOUNCE_MS;
    const same = event.code === last.code && event.code !== "";
    const drop = () => {
      event.preventDefault();
      event.stopImmediatePropagation();
    };
    if (event.repeat && (digit || event.key === "Enter")) return drop(); // held down by a heavy hand: one press
    if (held && gap < HAND_MS && !same) insert(held.field, held.text); // typed on as fast: an instrument
    if (fast && !same) instrument = event.timeStamp;
    const typesOn = event.timeStamp - instrument < BURST_MS;
    if (fast && same && !last.fast && !typesOn && (digit || event.key === "Enter")) {
      held = digit ? { field, text: (held?.text ?? "") + event.key } : null;
      last = { code: event.code, at: event.timeStamp, fast: false };
      return drop();
    }
    held = null;
    last = { code: event.code, at: event.timeStamp, fast };
    const pad = KEYPAD.exec(event.code);
    if (pad && !digit) {
      // NumLock is off: the digit printed on the key is what the hand means, not PgDn.
      drop();
      insert(field, pad[1] === "Decimal" ? "." : pad[1]);
    }
  });
}
