// The Dial is turned with a finger or the mouse, or by the arrow keys: where the bulb stopped is
// written as one would type it.
const NUDGE_DEG = 1;
const written = (degrees) => {
  const turn = Math.round(((degrees + 540) % 360) - 180);
  return turn === 0 ? "0" : `${Math.abs(turn)} ${turn > 0 ? "cw" : "ccw"}`;
};
const pointerOf = (dial) => {
  const held = dial.querySelector("[data-turned]");
  if (held) return held;
  const made = document.createElementNS("http://www.w3.org/2000/svg", "line");
  made.setAttribute("class", "pointer-turned");
  made.setAttribute("data-turned", "");
  made.setAttribute("y2", "-78");
  dial.append(made);
  return made;
};
const turn = (dial, degrees) => {
  dial.dataset.deg = degrees;
  dial.setAttribute("aria-valuenow", Math.round(degrees));
  pointerOf(dial).setAttribute("transform", `rotate(${degrees.toFixed(1)})`);
  const field = document.getElementById(dial.dataset.into);
  field.value = written(degrees);
  field.dispatchEvent(new Event("input", { bubbles: true }));
};
const settle = (dial) =>
  document.getElementById(dial.dataset.into).dispatchEvent(new Event("change", { bubbles: true }));
const angle = (dial, event) => {
  const box = dial.getBoundingClientRect();
  const right = event.clientX - box.left - box.width / 2;
  const down = event.clientY - box.top - box.height / 2;
  return (Math.atan2(right, -down) * 180) / Math.PI;
};

let held = null;
document.addEventListener("pointerdown", (event) => {
  const dial = event.target.closest?.("[data-into]");
  if (!dial || event.button) return;
  event.preventDefault();
  dial.focus();
  dial.setPointerCapture(event.pointerId);
  held = dial;
  turn(dial, angle(dial, event));
});
document.addEventListener("pointermove", (event) => held && turn(held, angle(held, event)));
["pointerup", "pointercancel"].forEach((kind) =>
  document.addEventListener(kind, () => {
    if (held) settle(held);
    held = null;
  }),
);
const KEYS = {
  ArrowRight: NUDGE_DEG,
  ArrowUp: NUDGE_DEG,
  ArrowLeft: -NUDGE_DEG,
  ArrowDown: -NUDGE_DEG,
  PageUp: 10,
  PageDown: -10,
};
document.addEventListener("keydown", (event) => {
  const dial = event.target.closest?.("[data-into]");
  if (!dial || !(event.key in KEYS)) return;
  event.preventDefault();
  turn(dial, Number(dial.dataset.deg || 0) + KEYS[event.key]);
});
document.addEventListener("keyup", (event) => {
  const dial = event.target.closest?.("[data-into]");
  if (dial && event.key in KEYS) settle(dial);
});
