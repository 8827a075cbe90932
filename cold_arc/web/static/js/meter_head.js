import { written } from "./dragging.js";
import { device } from "./meter_panel.js";
import { placeOn, stands } from "./wall.js";

// The meter's head on the Wall: dragged, walked with the arrows, brought home. Places are cm right
// and down of its lamp.
const STEP_CM = 1;
const FAR_STEP_CM = 10;
const AWAY_CM = 2;
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export const head = () => document.querySelector("[data-head]");

export const place = () => {
  const drawn = head();
  if (!drawn) return { x: 0, y: 0 };
  const at = stands(drawn);
  return { x: at.x - Number(drawn.dataset.lampX), y: at.y - Number(drawn.dataset.lampY) };
};

export const put = (x, y) => {
  const drawn = head();
  const onWall = [x + Number(drawn.dataset.lampX), y + Number(drawn.dataset.lampY)];
  drawn.setAttribute("transform", `translate(${onWall.map((at) => at.toFixed(2)).join(" ")})`);
  const words = { right: written(x, ["left", "right"]), down: written(y, ["up", "down"]) };
  document.querySelectorAll("[data-readings] [data-place]").forEach((input) => {
    input.value = words[input.dataset.place];
  });
};

export const bringHome = () => {
  const { homeX, homeY, lampX, lampY } = head().dataset;
  put(Number(homeX) - Number(lampX), Number(homeY) - Number(lampY));
};

// Whether it is held elsewhere than at the named place that is read; a free place is wherever it
// is.
export const isAway = () => {
  const drawn = head();
  if (!drawn || document.querySelector("[data-readings] [data-place]")) return false;
  const at = stands(drawn);
  return (
    Math.hypot(at.x - Number(drawn.dataset.homeX), at.y - Number(drawn.dataset.homeY)) > AWAY_CM
  );
};

// One step the way an arrow points; false for another key.
export const walk = (event) => {
  const arrow = ARROWS[event.key];
  if (!arrow) return false;
  const step = event.shiftKey ? FAR_STEP_CM : STEP_CM;
  const at = place();
  put(at.x + arrow[0] * step, at.y + arrow[1] * step);
  return true;
};

let dragged = null;
document.addEventListener("pointerdown", (event) => {
  const drawn = event.target.closest?.("[data-head]");
  if (!drawn || event.button || !device()) return;
  event.preventDefault();
  drawn.focus();
  const wall = drawn.ownerSVGElement;
  wall.setPointerCapture(event.pointerId);
  const at = placeOn(wall, event);
  dragged = { wall, from: place(), x: at.x, y: at.y };
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const at = placeOn(dragged.wall, event);
  put(dragged.from.x + at.x - dragged.x, dragged.from.y + at.y - dragged.y);
});
["pointerup", "pointercancel"].forEach((kind) =>
  document.addEventListener(kind, () => {
    dragged = null;
  }),
);
