// Keys that come before a page can hear them. Whoever lays a tape out types on at once: what is pressed while the page is
// on its way, or its script is, is kept in its order and given to the tape when that is ready. A classic script: it runs
// before there is anything to press.

(() => {
  const KEPT = "early keys";
  const FRESH_MS = 10000; // of a page that never came nothing is typed later
  const KEYPAD = /^Numpad(\d|Decimal)$/;
  const isTape = document.currentScript.dataset.page === "tape";
  let hearing = isTape;
  let keys = [];

  if (!isTape) sessionStorage.removeItem(KEPT); // this page came back: nothing was laid out

  function meant(event) {
    if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return "";
    const pad = KEYPAD.exec(event.code);
    if (pad && event.key.length > 1) return pad[1] === "Decimal" ? "." : pad[1]; // without NumLock
    return event.key.length === 1 || event.key === "Enter" || event.key === "Backspace" ? event.key : "";
  }

  function hear(event) {
    if (!hearing || event.target.closest?.("dialog, header")) return;
    const key = meant(event);
    if (!key) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    keys.push(key);
    if (!isTape) sessionStorage.setItem(KEPT, JSON.stringify({ keys, at: Date.now() }));
  }

  document.addEventListener("keydown", hear, true);
  if (!isTape) {
    document.addEventListener("submit", (event) => {
      if (event.defaultPrevented) return;
      hearing = true;
      window.setTimeout(() => (hearing = false), FRESH_MS); // a line that is gone: the page is here still, and its keys
    });
    return;
  }
  // The tape takes them once; from then on it hears for itself.
  window.earlyKeys = () => {
    hearing = false;
    const before = JSON.parse(sessionStorage.getItem(KEPT) ?? "null");
    sessionStorage.removeItem(KEPT);
    const all = [...(before && Date.now() - before.at < FRESH_MS ? before.keys : []), ...keys];
    keys = [];
    return all;
  };
})();
