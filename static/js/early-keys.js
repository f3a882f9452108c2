// Keys that come before a page can hear them. Whoever lays a tape out types on at once: what is pressed while the page is
// on its way, or its script is, is kept in its order and given to the tape when that is ready. At a step of the work the
// figure that its field asks for is kept so, and nothing else: no step is done unseen. At the bench an act is pressed again
// when its script is there. A classic script: it runs before there is anything to press.

(() => {
  const FRESH_MS = 10000; // of a page that never came nothing is typed later
  const KEYPAD = /^Numpad(\d|Decimal)$/;
  const page = document.currentScript.dataset.page; // tape, before (one), steps, bench
  const KEPT = page === "steps" ? "early keys of a step" : "early keys"; // a step's figure is no reading of a tape
  const PRESS_APART_MS = 350; // as on the steps: the second of two quick presses was meant for the step before
  const sends = page === "before" || page === "steps"; // what comes after this one gets what is pressed meanwhile
  let hearing = page !== "before";
  let keys = [];
  let last = { key: "", at: 0 };

  if (page === "before") sessionStorage.removeItem(KEPT); // this page came back: nothing was laid out

  function meant(event) {
    if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return "";
    const pad = KEYPAD.exec(event.code);
    if (pad && event.key.length > 1) return pad[1] === "Decimal" ? "." : pad[1]; // without NumLock
    return event.key.length === 1 || event.key === "Enter" || event.key === "Backspace" ? event.key : "";
  }

  function hear(event) {
    const again = event.key === last.key && event.timeStamp - last.at < PRESS_APART_MS;
    if (!hearing) last = { key: event.key, at: event.timeStamp };
    if (!hearing || event.target.closest?.("dialog, header")) return;
    const key = meant(event);
    if (!key) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    if (page === "steps" && again) return;
    keys.push(key);
    if (sends && document.readyState !== "loading") sessionStorage.setItem(KEPT, JSON.stringify({ keys, at: Date.now() }));
  }

  // Everything pressed so far, once; from then on the page hears for itself.
  function take() {
    hearing = false;
    const before = JSON.parse(sessionStorage.getItem(KEPT) ?? "null");
    sessionStorage.removeItem(KEPT);
    const all = [...(before && Date.now() - before.at < FRESH_MS ? before.keys : []), ...keys];
    keys = [];
    return all;
  }

  // Modules have run by then.
  const when = (ready) => document.addEventListener("DOMContentLoaded", ready);
  function write(field, key) {
    field.value = key === "Backspace" ? field.value.slice(0, -1) : field.value + key.trim();
    field.dispatchEvent(new InputEvent("input", { bubbles: true }));
  }
  if (page === "bench")
    when(() => {
      for (const key of take()) {
        const act = new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true });
        document.activeElement.dispatchEvent(act);
        if (!act.defaultPrevented && key !== "Enter" && document.activeElement.matches("input")) write(document.activeElement, key);
      }
    });
  if (page === "steps")
    when(() => {
      const field = document.querySelector("input[autofocus]");
      const all = take();
      const end = all.indexOf("Enter"); // the hand sees what it typed before it goes out
      const figure = (end < 0 ? all : all.slice(0, end)).filter((key) => key !== " "); // a space is a press, no figure
      if (!field || !/^\d|^[.,+-]/.test(figure[0] ?? "") || field.hasAttribute("aria-invalid")) return; // nothing to give, or a refusal to be mended
      field.focus();
      field.value = "";
      figure.forEach((key) => write(field, key));
    });

  document.addEventListener("keydown", hear, true);
  // On the window, after all have been asked: a second press, a line that is gone. At once: what is pressed next may be
  // heard before any timer.
  if (sends)
    window.addEventListener("submit", (event) => {
      if (event.defaultPrevented) return;
      hearing = true;
      window.setTimeout(() => (hearing = false), FRESH_MS); // no answer comes: the page is here still, and its keys
    });
  if (page === "tape") window.earlyKeys = take;
})();
