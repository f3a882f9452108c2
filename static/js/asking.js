// An act that was not answered says so and can be pressed again; a session that ended leads back to where it stood.

const line = document.querySelector("[data-asking]");

function show(which) {
  if (!line) return;
  line.hidden = !which;
  line.querySelectorAll("[data-when]").forEach((part) => (part.hidden = part.dataset.when !== which));
}

document.body.addEventListener("htmx:sendError", () => show("lost"));
document.body.addEventListener("htmx:responseError", (event) => show([401, 403].includes(event.detail.xhr.status) ? "out" : "lost"));
document.body.addEventListener("htmx:afterSwap", () => show(""));
