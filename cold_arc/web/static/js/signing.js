// A signature drawn on a field: strokes as a path in a hidden field, whole steps only.
const placeOf = (field, event) => {
  const box = field.getBoundingClientRect();
  const inside = (at, from, size, most) =>
    Math.max(0, Math.min(most, Math.round(((at - from) / size) * most)));
  const across = inside(event.clientX, box.left, box.width, 600);
  const down = inside(event.clientY, box.top, box.height, 160);
  return `${across} ${down}`;
};
const MOST = 4000;

const draw = (field, text) => {
  const kept = document.getElementById(field.dataset.sign);
  if (kept.value.length + text.length > MOST) return;
  kept.value += text;
  field.querySelector("path").setAttribute("d", kept.value);
};

document.addEventListener("pointerdown", (event) => {
  const field = event.target.closest?.("[data-sign]");
  if (!field) return;
  event.preventDefault();
  field.setPointerCapture(event.pointerId);
  let last = placeOf(field, event);
  draw(field, `M${last}`);
  const move = (moved) => {
    const place = placeOf(field, moved);
    if (place !== last) draw(field, `L${place}`);
    last = place;
  };
  field.addEventListener("pointermove", move);
  const end = () => field.removeEventListener("pointermove", move);
  field.addEventListener("pointerup", end, { once: true });
  field.addEventListener("pointercancel", end, { once: true });
});

document.addEventListener("click", (event) => {
  const name = event.target.closest?.("[data-sign-clear]")?.dataset.signClear;
  if (!name) return;
  document.getElementById(name).value = "";
  document.querySelector(`[data-sign="${name}"] path`).setAttribute("d", "");
});
