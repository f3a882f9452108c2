// What is typed into a form and not sent yet outlives a reload, a switch of units or theme, a way there and back.
// Readings have a box of their own (outbox.js).

const person = document.body.dataset.person;
const keyOf = (form) => `draft:${person}:${location.pathname}${location.search}:${form.id || form.getAttribute("action") || ""}`;
const FIELDS = "input:not([type=hidden]):not([type=password]):not([type=file]):not([data-slot]), textarea, select";
const ticked = (field) => field.type === "checkbox" || field.type === "radio";
const nameOf = (field) => (ticked(field) ? `${field.name}=${field.value}` : field.name);
const valueOf = (field) => (ticked(field) ? String(field.checked) : field.value);
const bare = /^\s*[-+−]?[\d.,½¼¾]+\s*$/;

function defaultOf(field) {
  if (ticked(field)) return String(field.defaultChecked);
  if (field.tagName === "SELECT") return [...field.options].find((option) => option.defaultSelected)?.value ?? field.options[0]?.value ?? "";
  return field.defaultValue;
}

function read(form) {
  try {
    return JSON.parse(sessionStorage.getItem(keyOf(form)) ?? "{}");
  } catch {
    return {};
  }
}

function write(form, draft) {
  try {
    if (Object.keys(draft).length) sessionStorage.setItem(keyOf(form), JSON.stringify(draft));
    else sessionStorage.removeItem(keyOf(form));
  } catch {
    // a device that refuses storage keeps no drafts
  }
}

function note(event) {
  const field = event.target;
  const form = field.form;
  if (!form || form.method !== "post" || !field.name || !field.matches(FIELDS)) return;
  const draft = read(form);
  if (ticked(field) && field.type === "radio") {
    for (const name of Object.keys(draft)) if (name.startsWith(`${field.name}=`)) delete draft[name];
  }
  draft[nameOf(field)] = { value: valueOf(field), was: defaultOf(field), unit: field.dataset.unit ?? "" };
  write(form, draft);
}

function restore(form) {
  const draft = read(form);
  for (const field of form.querySelectorAll(FIELDS)) {
    const kept = draft[nameOf(field)];
    // Somebody else's newer value, or the server's answer to what was sent, is not written over.
    const unit = field.dataset.unit ?? "";
    if (!kept || kept.value === valueOf(field) || (defaultOf(field) !== kept.was && kept.unit === unit)) continue;
    if (ticked(field)) field.checked = kept.value === "true";
    else field.value = kept.unit !== unit && kept.unit && bare.test(kept.value) ? `${kept.value.trim()} ${kept.unit}` : kept.value;
    field.closest("details")?.setAttribute("open", "");
  }
}

// A draft goes when its form was taken, not when it was sent: a pulled plug or a session that ended keeps it. A form that
// was taken leads on, from the page it stood on to one that somebody is signed in on; nothing else does.
const SENT = "sent:";
const mark = (form) => sessionStorage.setItem(SENT + keyOf(form), location.href);

function answered(from) {
  const [way] = performance.getEntriesByType("navigation");
  return Boolean(person) && document.referrer === from && way?.redirectCount > 0 && way.type !== "back_forward";
}

function settle() {
  for (const key of Object.keys(sessionStorage).filter((each) => each.startsWith(SENT))) {
    if (answered(sessionStorage.getItem(key))) sessionStorage.removeItem(key.slice(SENT.length));
    sessionStorage.removeItem(key);
  }
}

try {
  settle();
} catch {
  // a device that refuses storage keeps no drafts
}
document.querySelectorAll("form[method=post]").forEach(restore);
document.addEventListener("input", note);
document.addEventListener("change", note);
document.addEventListener("submit", (event) => {
  try {
    mark(event.target);
  } catch {
    // as above
  }
});
document.addEventListener("htmx:afterRequest", (event) => {
  const form = event.detail.elt?.closest?.("form");
  if (form && event.detail.successful) write(form, {});
});
