// The lanes by keys: digits pick, P shows the next policy, Enter decides (the form's own button).

const form = document.querySelector("[data-choose]");

function told(radio) {
  const words = form.querySelector("[data-picked]");
  if (words) words.textContent = `${words.dataset.verb} ${radio.dataset.lane}: ${radio.dataset.words}`;
}

if (form) {
  const radios = [...form.querySelectorAll("[data-lane]")];
  form.addEventListener("change", (event) => event.target.matches("[data-lane]") && told(event.target));
  const picked = radios.find((radio) => radio.checked);
  if (picked) told(picked);
  document.addEventListener("keydown", (event) => {
    if (event.target.matches("input:not([type=radio]), textarea") || event.ctrlKey || event.altKey || event.metaKey) return;
    if (/^[1-9]$/.test(event.key)) {
      const radio = radios.find((each) => each.dataset.lane === event.key);
      if (!radio) return;
      radio.closest("details")?.setAttribute("open", "");
      radio.checked = true;
      radio.focus();
      told(radio);
    } else if (event.key.toLowerCase() === "p") {
      document.querySelector("[data-policy]")?.click();
    } else if (event.key === "Enter" && !event.target.closest("a, button, summary, form")) {
      form.requestSubmit();
    }
  });
}
