// This page where there is no line: pages that were opened stay on the device until somebody else is at it.

const WHO = "last person";
const ASK_EVERY_MS = 5000;
const person = document.body.dataset.person;

function isSomebodyElse() {
  try {
    const before = localStorage.getItem(WHO);
    localStorage.setItem(WHO, person);
    return before !== null && before !== person;
  } catch {
    return true; // a device that remembers nobody keeps nothing for anybody
  }
}

if (navigator.serviceWorker) {
  navigator.serviceWorker.register("/service-worker.js").catch(() => {}); // a browser that refuses is one without it
  const isFirst = !navigator.serviceWorker.controller;
  const forget = isSomebodyElse();
  navigator.serviceWorker.ready.then(({ active }) => {
    if (forget) active.postMessage("forget pages");
    if (isFirst && person) active.postMessage({ keep: location.href });
  });
}

// Drawn from the device: say since when, and when the line is back.
const kept = document.body.dataset.kept;
const line = document.getElementById("kept");
if (kept !== undefined && line) {
  const at = new Date(kept);
  const time = line.querySelector("time");
  time.dateTime = at.toISOString();
  time.textContent = at.toLocaleTimeString(document.documentElement.lang, { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
  line.hidden = false;
  const show = (name) => line.querySelectorAll("[data-line]").forEach((part) => (part.hidden = part.dataset.line !== name));
  // A form would leave this page for the browser's own error and take what was typed along.
  const hold = (event) => {
    event.preventDefault();
    event.stopPropagation();
    show("held");
    line.scrollIntoView({ block: "nearest" });
  };
  document.addEventListener("submit", hold, true);
  const asking = window.setInterval(async () => {
    const answer = await fetch("/health/ready/", { cache: "no-store" }).catch(() => null);
    if (!answer?.ok) return;
    window.clearInterval(asking);
    document.removeEventListener("submit", hold, true);
    show("back");
  }, ASK_EVERY_MS);
}
