// The lathe: a letter presses its button, from anywhere but a field; what a pass sounds like can be heard.

document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat || document.querySelector("dialog[open]")) return;
  if (event.target.closest("input, select, textarea") && !(event.target.closest(".lathe-knobs") && /^[a-z]$/i.test(event.key))) return;
  const button = document.querySelector(`#lathe [data-key="${event.key.toLowerCase()}"]`);
  if (!button) return;
  event.preventDefault();
  button.click();
});

const SOUNDS = { steady: [0, 0.06], rubs: [2600, 0.12], chatters: [90, 0.3], rings: [700, 0.15] };
let audio = null;

document.addEventListener("click", (event) => {
  const [pitch, loud] = SOUNDS[event.target.closest("[data-play]")?.dataset.play] ?? [];
  if (loud === undefined) return;
  audio ??= new AudioContext();
  const seconds = 1.6;
  const buffer = audio.createBuffer(1, audio.sampleRate * seconds, audio.sampleRate);
  const data = buffer.getChannelData(0);
  for (let k = 0; k < data.length; k += 1) {
    const t = k / audio.sampleRate;
    data[k] = loud * ((Math.random() - 0.5) * 0.8 + (pitch ? Math.sin(2 * Math.PI * pitch * t) : 0));
  }
  const source = audio.createBufferSource();
  source.buffer = buffer;
  source.connect(audio.destination);
  source.start();
});
