// Digits answer, Enter goes on.

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat || document.querySelector("dialog[open]")) return;
  if (/^[1-4]$/.test(event.key)) document.querySelector(`[data-drill="${event.key}"]`)?.click();
  else if (event.key === "Enter" && !event.target.closest("a, button")) document.querySelector("[data-drill-next]")?.click();
});
