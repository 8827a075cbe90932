// The Wall and what stands beside it: sliders say their value, the wipe uncovers the before
// picture, a pointer asks.
const ASK_EVERY_MS = 120;
let asked = 0;

document.addEventListener("input", (event) => {
  const { shows } = event.target.dataset;
  if (shows) document.getElementById(shows).textContent = event.target.value;
  if ("wipe" in event.target.dataset) {
    const wall = event.target.closest(".wipe").previousElementSibling;
    const width = Number(wall.querySelector("image").getAttribute("width"));
    wall.querySelector(".wipe-rect").setAttribute("width", (width * event.target.value) / 100);
  }
});

export const placeOn = (wall, event) =>
  new DOMPoint(event.clientX, event.clientY).matrixTransform(wall.getScreenCTM().inverse());

const degrees = (radians) => (radians * 180) / Math.PI;

const ask = (event) => {
  const wall = event.target.closest?.("[data-probe]");
  if (!wall || (event.type === "pointermove" && Date.now() - asked < ASK_EVERY_MS)) return;
  asked = Date.now();
  const at = placeOn(wall, event);
  const reach = Number(wall.dataset.reach);
  const h = degrees(Math.atan2(at.x, Math.hypot(at.y, reach)));
  const v = degrees(Math.atan2(-at.y, reach));
  htmx.ajax("GET", `${wall.dataset.probe}&h=${h.toFixed(2)}&v=${v.toFixed(2)}`, {
    target: "#probe",
    swap: "innerHTML",
  });
};
// By eye: a tap on a turn's wall fills in where.
document.addEventListener("click", (event) => {
  const eyed = event.target.closest?.("[data-eye]");
  const wall = event.target.closest?.("svg");
  if (!eyed || !wall) return;
  const at = placeOn(wall, event);
  const reach = Number(eyed.dataset.reach);
  const put = (name, angle) => {
    document.getElementById(`${eyed.dataset.eye}-${name}`).value = angle.toFixed(1);
  };
  put("h", degrees(Math.atan2(at.x, Math.hypot(at.y, reach))));
  put("v", degrees(Math.atan2(-at.y, reach)));
});
document.addEventListener("pointermove", ask);
document.addEventListener("pointerdown", ask);

// Zoom: the wheel with a key held, or the buttons.
const MOST_ZOOM = 8;
const home = (wall) => {
  wall.dataset.home ||= wall.getAttribute("viewBox");
  return wall.dataset.home.split(" ").map(Number);
};
const viewed = (wall) => wall.getAttribute("viewBox").split(" ").map(Number);
const show = (wall, [x, y, width, height]) => {
  const [hx, hy, hw, hh] = home(wall);
  const w = Math.min(hw, Math.max(hw / MOST_ZOOM, width));
  const h = Math.min(hh, Math.max(hh / MOST_ZOOM, height));
  const left = Math.min(hx + hw - w, Math.max(hx, x));
  const top = Math.min(hy + hh - h, Math.max(hy, y));
  wall.setAttribute("viewBox", [left, top, w, h].map((edge) => edge.toFixed(2)).join(" "));
  wall.classList.toggle("zoomed", w < hw - 0.01);
};
const zoom = (wall, factor, at) => {
  const [x, y, width, height] = viewed(wall);
  const centre = at || { x: x + width / 2, y: y + height / 2 };
  show(wall, [
    centre.x - (centre.x - x) / factor,
    centre.y - (centre.y - y) / factor,
    width / factor,
    height / factor,
  ]);
};
document.addEventListener(
  "wheel",
  (event) => {
    const wall = event.target.closest?.("[data-wall]");
    if (!wall || !(event.ctrlKey || event.altKey)) return;
    event.preventDefault();
    zoom(wall, event.deltaY < 0 ? 1.25 : 0.8, placeOn(wall, event));
  },
  { passive: false },
);
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-zoom]");
  if (button)
    zoom(button.closest(".wall-figure").querySelector("[data-wall]"), Number(button.dataset.zoom));
});

// A wall that is zoomed is dragged by its ground.
let panned = null;
document.addEventListener("pointerdown", (event) => {
  const wall = event.target.closest?.("[data-wall].zoomed");
  if (!wall || event.button || event.target.closest("[data-drag], a")) return;
  panned = { wall, view: viewed(wall), x: event.clientX, y: event.clientY };
});
document.addEventListener("pointermove", (event) => {
  if (!panned) return;
  const { wall, view, x, y } = panned;
  const scale = view[2] / wall.clientWidth;
  show(wall, [
    view[0] - (event.clientX - x) * scale,
    view[1] - (event.clientY - y) * scale,
    view[2],
    view[3],
  ]);
});
["pointerup", "pointercancel"].forEach((kind) =>
  document.addEventListener(kind, () => {
    panned = null;
  }),
);

// Where something drawn by a translation stands.
export const stands = (drawn) => {
  const [x, y] = drawn
    .getAttribute("transform")
    .match(/-?[\d.]+/g)
    .map(Number);
  return { x, y };
};

// On a narrow screen a Wall of two lamps is twice as wide as the screen: the lamp in hand is
// scrolled to, the other a swipe away.
export const fitWalls = () =>
  document.querySelectorAll(".wall-figure.pair").forEach((figure) => {
    const here = figure.querySelector(".wall-point.here, [data-drag]");
    if (here) figure.scrollLeft = stands(here).x > 0 ? figure.scrollWidth : 0;
  });
