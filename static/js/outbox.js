// Readings on their way. Every edit of every tape waits here, in this device's storage, until the server has said of
// this very edit that it is stored. Whatever page is open sends them all; what cannot be sent is counted in plain sight.

const PREFIX = "reading:";
const RETRY_MS = 1500;
const PATIENCE_MS = 20000;
const SHOWN_AFTER_MS = 400; // an edit that is stored sooner is not worth a mark
const REST_MS = 250; // the end of an entry goes out with the first key of the next, where that follows at once
const memory = new Map(); // for devices that refuse storage
const client = [...crypto.getRandomValues(new Uint32Array(3))].join("-"); // this page, opened this once
const person = document.body.dataset.person;
const listeners = new Set();
const resting = new Set(); // edits that bring no new text and may wait for company
let flying = new Set(); // edits on their way now
let number = 0; // counts this page's edits; no clock is asked
let retry = 0;
let failing = ""; // why nothing goes out: "silent", "signed-out"
let since = 0;
let leaving = false; // the next page is asked for: it may have been drawn before what is stored from now on

const keyOf = (url, slot) => `${PREFIX}${url}#${slot}`;

function read(key) {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") ?? memory.get(key);
  } catch {
    return memory.get(key);
  }
}

function write(edit) {
  const key = keyOf(edit.url, edit.slot);
  try {
    localStorage.setItem(key, JSON.stringify(edit));
    memory.delete(key);
  } catch {
    memory.set(key, edit);
  }
}

function remove(url, slot) {
  const key = keyOf(url, slot);
  memory.delete(key);
  try {
    localStorage.removeItem(key);
  } catch {
    // a device that refuses storage has nothing to remove
  }
}

export const get = (url, slot) => read(keyOf(url, slot));

export function list(url = "") {
  let keys = [...memory.keys()];
  try {
    keys = [...new Set([...keys, ...Object.keys(localStorage)])];
  } catch {
    // only what this page holds
  }
  const edits = keys.filter((key) => key.startsWith(`${PREFIX}${url}`)).map(read).filter(Boolean);
  return edits.sort((a, b) => a.slot - b.slot);
}

const mine = (edit) => edit.person === person;
const canGo = (edit) => mine(edit) && !edit.held && !edit.why && !edit.arrived;
const unsent = () => list().filter(({ arrived }) => !arrived); // what waits is shown, what only asks after itself is not
export const underWay = (url = "") => list(url).filter(canGo).length;

export function listen(listener) {
  listeners.add(listener);
}

// Put an edit into the box; one that has not gone out yet is superseded by it. One that ``rests`` ends an entry and
// brings no new text.
export function put(url, slot, { text, was, final, label, rests }) {
  const before = get(url, slot);
  if (before?.held) {
    write({ ...before, text }); // undecided still, about what stands here now
    return changed();
  }
  const heirs = before && before.client !== client ? [...(before.heirs ?? []), before.client] : (before?.heirs ?? []);
  const edit = { id: `${client}-${++number}`, url, slot, text, was: before?.was ?? was, final, client, number, heirs, label, person, who: document.body.dataset.who };
  write(edit);
  if (rests && (!before || flying.has(before.id) || resting.has(before.id))) rest(edit.id);
  send();
}

function rest(id) {
  resting.add(id);
  window.setTimeout(() => resting.delete(id) && send(), REST_MS);
}

// Send what rests, too: somebody waits for it.
export function hurry() {
  resting.clear();
  send();
}

export function keepMine(url, slot, theirs) {
  const edit = get(url, slot);
  if (!edit) return;
  write({ ...edit, id: `${client}-${++number}`, client, number, was: theirs, held: false, theirs: undefined, final: true });
  send();
}

export function forget(url, slot) {
  remove(url, slot);
  changed();
}

const cookie = (name) => document.cookie.split("; ").find((part) => part.startsWith(`${name}=`))?.slice(name.length + 1) ?? "";

// Ask the server; what comes back is {status, body}, body only where it is an answer of ours.
export async function ask(url, values) {
  const patience = new AbortController();
  const timer = window.setTimeout(() => patience.abort(), PATIENCE_MS);
  try {
    const answer = await fetch(url, {
      method: "POST",
      body: new URLSearchParams(values),
      headers: { "X-CSRFToken": cookie("csrftoken"), Accept: "application/json" },
      redirect: "manual", // the way to the sign-in page
      signal: patience.signal,
    });
    if (answer.type === "opaqueredirect") return { status: 401 };
    const ours = answer.headers.get("Content-Type")?.startsWith("application/json");
    return { status: answer.status, body: ours ? await answer.json() : null };
  } catch {
    return { status: 0 };
  } finally {
    window.clearTimeout(timer);
  }
}

function later(why) {
  failing = why;
  window.clearTimeout(retry);
  retry = window.setTimeout(() => {
    retry = 0;
    send();
  }, RETRY_MS);
}

// What an answer that names no edit means for those that were sent.
const REFUSED = { 400: "unfit", 403: "forbidden", 404: "gone", 405: "unfit", 409: "closed", 413: "unfit" };

function settle(sent, { status, body }) {
  const named = body?.outcomes ?? {};
  for (const edit of sent) {
    const now = get(edit.url, edit.slot);
    const outcome = named[edit.id];
    if (!now) continue;
    if (outcome?.kind === "stored" || outcome?.kind === "superseded" || (outcome && edit.again)) {
      if (now.id !== edit.id) continue;
      if (leaving) write({ ...now, arrived: true }); // the next page sends it once more, and hears what stands there
      else remove(edit.url, edit.slot);
    } else if (outcome?.kind === "conflict") {
      write({ ...now, held: true, theirs: outcome.theirs });
    } else if ((outcome || REFUSED[status]) && now.id === edit.id) {
      write({ ...now, why: outcome?.kind ?? REFUSED[status] });
    }
  }
}

// The newest text of every cell of one tape goes out at once; the tape on this page first.
export async function send() {
  changed();
  if (flying.size || retry) return;
  const waiting = list().filter(canGo);
  if (waiting.every(({ id }) => resting.has(id))) return;
  const open = document.getElementById("tape")?.dataset;
  const url = waiting.some((edit) => edit.url === open?.url) ? open.url : waiting[0].url;
  const sent = waiting.filter((edit) => edit.url === url).sort((a, b) => (a.client === client) - (b.client === client) || a.number - b.number);
  const edits = sent.map(({ id, slot, text, was, client: from, number: n, heirs, final }) => ({ id, slot, text, was, client: from, number: n, heirs, final }));
  flying = new Set(sent.map(({ id }) => id));
  const answer = await ask(url, { edits: JSON.stringify(edits), person, ...showing() });
  flying = new Set();
  if (answer.status === 401) later("signed-out");
  else if (answer.status === 0 || answer.status === 408 || answer.status === 429 || answer.status >= 500 || (answer.status === 200 && !answer.body)) later("silent");
  else {
    failing = "";
    settle(sent, answer);
  }
  for (const listener of listeners) listener({ url, ...answer });
  if (retry) changed();
  else send();
}

// What this page shows, so that the answer brings it drawn anew.
export function showing() {
  const tape = document.getElementById("tape");
  if (!tape) return {};
  const at = document.activeElement?.dataset?.slot ?? tape.dataset.first;
  return { show: tape.dataset.show, view: tape.dataset.view, at };
}

const words = (mark, count) => (count === 1 ? mark.dataset.one : mark.dataset.many.replace("%s", count));

// The mark in the head, the line at the foot, and whether a verdict may be believed yet.
function changed() {
  const edits = unsent();
  since = edits.length ? since || performance.now() : 0;
  const slow = edits.length > 0 && (failing || edits.some((edit) => !canGo(edit)) || performance.now() - since >= SHOWN_AFTER_MS);
  document.body.classList.toggle("waits", underWay() > 0 && Boolean(slow));
  const mark = document.getElementById("unsent");
  if (mark) {
    mark.hidden = !slow;
    if (slow) mark.textContent = words(mark, edits.length);
  }
  const line = document.getElementById("lost");
  if (line) {
    line.hidden = !failing || !edits.some(mine);
    line.querySelectorAll("[data-when]").forEach((part) => (part.hidden = part.dataset.when !== failing));
  }
  if (edits.length && !slow) window.setTimeout(changed, SHOWN_AFTER_MS);
  if (document.getElementById("unsent-list")?.open) show();
  document.dispatchEvent(new CustomEvent("outbox"));
}

// The list behind the mark: what waits, why, and the way out.
function show() {
  const dialog = document.getElementById("unsent-list");
  const rows = dialog.querySelector("ul");
  rows.replaceChildren(
    ...unsent().map((edit) => {
      const row = dialog.querySelector("template").content.cloneNode(true);
      const why = !mine(edit) ? "other" : edit.held ? "conflict" : (edit.why ?? "under-way");
      row.querySelector("[data-label]").textContent = edit.label ?? "";
      row.querySelector("[data-text]").textContent = edit.text || "–";
      row.querySelectorAll("[data-why]").forEach((part) => (part.hidden = part.dataset.why !== why));
      row.querySelectorAll("[data-who]").forEach((part) => (part.textContent = edit.who ?? ""));
      row.querySelector("[data-forget]").addEventListener("click", () => {
        forget(edit.url, edit.slot);
        show();
      });
      return row;
    }),
  );
  if (!dialog.open) dialog.showModal();
}

document.getElementById("unsent")?.addEventListener("click", show);
window.addEventListener("online", send);
window.addEventListener("pagehide", hurry);
window.addEventListener("storage", changed);
window.addEventListener("beforeunload", (event) => {
  if (memory.size) event.preventDefault(); // what storage refused would be gone
  leaving = true;
  window.setTimeout(begin, PATIENCE_MS); // still here then: it was not left
});

// What was refused is tried once more by every page that is opened: a job may be open again, a right given. What arrived
// while the page before was left is asked after.
function begin() {
  leaving = false;
  for (const edit of list().filter(mine)) {
    // What somebody wrote since over one that has arrived, stands.
    if (edit.why || edit.arrived) write({ ...edit, why: undefined, arrived: undefined, again: edit.arrived });
  }
  send();
}
begin();
