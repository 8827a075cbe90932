// Marks on a photograph: each is dragged, or moved by the arrow keys; a glass shows what is under
// the one in hand.
import { placeOn } from "./wall.js";

const STEP_PX = 1;
const held = (mark) => document.getElementById(mark.dataset.mark);
const at = (mark) => held(mark).value.split(",").map(Number);

const look = (mark) => {
  const glass = mark.closest(".photo-figure").querySelector("[data-glass]");
  const [x, y] = at(mark);
  const half = glass.viewBox.baseVal.width / 2;
  glass.querySelector("image").setAttribute("transform", `translate(${half - x} ${half - y})`);
  const photo = mark.ownerSVGElement;
  glass.classList.toggle("aside", x < photo.viewBox.baseVal.width / 2);
  glass.classList.add("shown");
};
const put = (mark, x, y) => {
  const { width, height } = mark.ownerSVGElement.viewBox.baseVal;
  const [u, v] = [Math.min(Math.max(x, 0), width - 1), Math.min(Math.max(y, 0), height - 1)];
  held(mark).value = `${u.toFixed(2)},${v.toFixed(2)}`;
  mark.setAttribute(
    "transform",
    mark.getAttribute("transform").replace(/translate\([^)]*\)/, `translate(${u} ${v})`),
  );
  look(mark);
};

let dragged = null;
document.addEventListener("pointerdown", (event) => {
  const mark = event.target.closest?.("[data-mark]");
  if (!mark || event.button) return;
  event.preventDefault();
  mark.focus();
  const photo = mark.ownerSVGElement;
  photo.setPointerCapture(event.pointerId);
  const [x, y] = at(mark);
  const from = placeOn(photo, event);
  dragged = { mark, photo, dx: x - from.x, dy: y - from.y };
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const place = placeOn(dragged.photo, event);
  put(dragged.mark, place.x + dragged.dx, place.y + dragged.dy);
});
["pointerup", "pointercancel"].forEach((kind) =>
  document.addEventListener(kind, () => {
    dragged = null;
  }),
);

document.addEventListener("focusin", (event) => {
  const mark = event.target.closest?.("[data-mark]");
  if (mark) look(mark);
});
const WAYS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
document.addEventListener(
  "keydown",
  (event) => {
    const mark = event.target.closest?.("[data-mark]");
    const way = mark && WAYS[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = STEP_PX * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
    const [x, y] = at(mark);
    put(mark, x + way[0] * step, y + way[1] * step);
  },
  true,
);

document.addEventListener("submit", (event) => {
  const busy = event.target.querySelector?.(".photo-busy");
  if (busy) busy.textContent = "Measuring. This takes a second or two.";
});
