// Keys that work on every page.

import "./ahead.js"; // before offline.js: what can wait on the device is not held back
import "./drafts.js";
import "./offline.js";
import "./outbox.js";

const typing = (element) => element instanceof HTMLElement && element.matches("input, textarea, select");

function showKeys() {
  const dialog = document.getElementById("keys");
  if (dialog && !dialog.open) dialog.showModal();
}

function go(selector) {
  const target = document.querySelector(selector);
  if (target) target.click();
  return Boolean(target);
}

document.addEventListener("keydown", (event) => {
  if (document.querySelector("dialog[open]")) return;
  const field = typing(event.target);
  if (event.key === "?" && (!field || event.target.closest("#tape"))) {
    event.preventDefault();
    showKeys();
  } else if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) {
    // The brass act: a key that writes in no field. In a form that ends the page's matter it sends that form.
    const own = event.target.closest?.("form[data-own-enter]");
    if (own) own.requestSubmit();
    if (own || go("[data-next]") || go("main .next[type=submit]")) event.preventDefault();
  } else if (event.key === "/" && !field) {
    const search = document.querySelector("[data-search]");
    if (search) {
      event.preventDefault();
      search.focus();
      search.select();
    }
  } else if (event.altKey && /^[1-4]$/.test(event.key)) {
    if (go(`[data-corner="${event.key}"]`)) event.preventDefault();
  } else if (event.altKey && /^[5-9]$/.test(event.key)) {
    if (go(`[data-layer="${event.key - 4}"]`)) event.preventDefault();
  } else if ((event.key === "PageDown" || event.key === "PageUp") && event.location !== 3) {
    const tabs = [...document.querySelectorAll("[data-tab]")];
    const here = tabs.findIndex((tab) => tab.getAttribute("aria-current"));
    if (tabs.length > 1 && here >= 0) {
      event.preventDefault();
      tabs[(here + (event.key === "PageDown" ? 1 : tabs.length - 1)) % tabs.length].click();
    }
  }
});

// The work, one press a step: Space anywhere but in a field; numbers pick what a look shows or why a hold is passed;
// Backspace takes the last back. The second of two quick presses, by key or hand, was meant for the step before: when the
// hand pressed counts, not when a busy machine came to it.
const PRESS_APART_MS = 350;
if (document.querySelector(".run")) {
  let hand = 0;
  const moved = (event) => (hand = performance.timeOrigin + event.timeStamp);
  ["keydown", "pointerdown"].forEach((kind) => document.addEventListener(kind, moved, true));
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.target.closest("input, textarea, select, dialog, header")) return;
    const findings = [...document.querySelectorAll(".run-findings button, .run-hold [data-fill]")];
    const target =
      event.key === " " && event.shiftKey ? (document.querySelector("button[data-part]") ?? document.querySelector("[data-space]"))
      : event.key === " " && !event.target.closest("button, a") ? document.querySelector("[data-space]")
      : event.key === "Backspace" ? document.querySelector("[data-back]")
      : /^[1-9]$/.test(event.key) ? findings[Number(event.key) - 1]
      : null;
    if (!target) return;
    event.preventDefault();
    if (!event.repeat) target.click();
  });
  document.addEventListener("submit", (event) => {
    const now = hand || Date.now();
    const since = now - Number(sessionStorage.getItem("pressed"));
    const typed = [...event.target.querySelectorAll("input:not([type=hidden], [type=checkbox])")].some((field) => field.value);
    if (since >= 0 && since < PRESS_APART_MS && !typed) event.preventDefault();
    else sessionStorage.setItem("pressed", String(now));
  });
  document.querySelectorAll("[data-fill]").forEach((button) =>
    button.addEventListener("click", () => {
      const field = document.getElementById(button.dataset.fill);
      field.value = button.value;
      field.form.requestSubmit();
    }),
  );
}

document.querySelectorAll("[data-keys]").forEach((button) => button.addEventListener("click", showKeys));

if (location.hash === "#close") {
  document.getElementById("close")?.setAttribute("open", "");
  // The browser takes the focus away where it scrolls to: the hand stands in the form after that.
  const enter = () => requestAnimationFrame(() => document.querySelector("#close select")?.focus());
  if (document.readyState === "complete") enter();
  else window.addEventListener("load", enter);
}

// A name that the fleet knows needs no more said of it.
const fleet = document.getElementById("fleet");
const anew = document.querySelector("[data-new-vehicle]");
if (fleet && anew) {
  const bare = (name) => name.toLowerCase().replace(/[\s-]/g, "");
  const names = new Set([...fleet.options].flatMap((option) => [option.value, option.text]).map(bare));
  const field = document.querySelector("[list=fleet]");
  const said = () => document.querySelector("[data-which] :checked:not([value^='new '])");
  const fold = () => (anew.hidden = bare(field.value) !== "" && (names.has(bare(field.value)) || said() !== null));
  field.form.addEventListener("input", fold);
  fold();
}

// Enter lays out from anywhere on the page; in a text of several lines it is a line, on a button that button.
document.addEventListener("keydown", (event) => {
  if (event.key !== "Enter" || event.ctrlKey || event.metaKey || event.defaultPrevented) return;
  const form = document.querySelector("form[data-enter]");
  if (!form || event.target.closest("textarea, button, a, summary, [list], dialog, header")) return;
  event.preventDefault();
  form.requestSubmit();
});

// After a refusal the hand stands in the first field that is wrong.
const wrong = document.querySelector(".which.wrong input, .field.wrong input, .field.wrong select, .field.wrong textarea");
if (wrong) {
  wrong.closest("details")?.setAttribute("open", "");
  wrong.focus();
  wrong.select?.();
}
