// The Wall and what stands beside it: sliders say their value, the wipe uncovers the before picture, a pointer asks.
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

export const placeOn = (wall, event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(wall.getScreenCTM().inverse());

const degrees = (radians) => (radians * 180) / Math.PI;

const ask = (event) => {
  const wall = event.target.closest?.("[data-probe]");
  if (!wall || (event.type === "pointermove" && Date.now() - asked < ASK_EVERY_MS)) return;
  asked = Date.now();
  const at = placeOn(wall, event);
  const reach = Number(wall.dataset.reach);
  const h = degrees(Math.atan2(at.x, Math.hypot(at.y, reach)));
  const v = degrees(Math.atan2(-at.y, reach));
  htmx.ajax("GET", `${wall.dataset.probe}&h=${h.toFixed(2)}&v=${v.toFixed(2)}`, { target: "#probe", swap: "innerHTML" });
};
document.addEventListener("pointermove", ask);
document.addEventListener("pointerdown", ask);

// Zoom and drag: two fingers, or the wheel with a key held, or the buttons; a wall that is zoomed is dragged by its ground.
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
  wall.setAttribute("viewBox", [left, top, w, h].map((it) => it.toFixed(2)).join(" "));
  wall.classList.toggle("zoomed", w < hw - 0.01);
};
const zoom = (wall, factor, at) => {
  const [x, y, width, height] = viewed(wall);
  const centre = at || { x: x + width / 2, y: y + height / 2 };
  show(wall, [centre.x - (centre.x - x) / factor, centre.y - (centre.y - y) / factor, width / factor, height / factor]);
};
document.addEventListener("wheel", (event) => {
  const wall = event.target.closest?.("[data-wall]");
  if (!wall || !(event.ctrlKey || event.altKey)) return;
  event.preventDefault();
  zoom(wall, event.deltaY < 0 ? 1.25 : 0.8, placeOn(wall, event));
}, { passive: false });
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-zoom]");
  if (button) zoom(button.closest(".wall-figure").querySelector("[data-wall]"), Number(button.dataset.zoom));
});

// The cut-off is dragged, or nudged: its place is written into the fields as one would type it, and shown at once.
const NUDGE_CM = 0.5;
const INCH_CM = 2.54;
const inches = () => document.querySelector("button[name=units]")?.value === "metric";
const written = (cm, words) => {
  const value = inches() ? cm / INCH_CM : cm;
  const figure = Math.abs(value).toFixed(inches() ? 2 : 1);
  return Number(figure) === 0 ? `0 ${inches() ? "in" : "cm"}` : `${figure} ${inches() ? "in" : "cm"} ${words[value > 0 ? 1 : 0]}`;
};
const fill = (name, text) => {
  const field = document.querySelector(`#work [name=${name}]`);
  if (!field) return;
  field.value = text;
  field.dispatchEvent(new Event("input", { bubbles: true }));
};
const moveLine = (line, x, y) => {
  line.setAttribute("transform", `translate(${x.toFixed(2)} ${y.toFixed(2)})`);
  line.dataset.x = x;
  line.dataset.y = y;
  fill("stands", written(y - Number(line.dataset.lampY), ["up", "down"]));
  fill("sideways", written(x - Number(line.dataset.lampX), ["left", "right"]));
};
const stands = (line) => {
  const [x, y] = line.getAttribute("transform").match(/-?[\d.]+/g).map(Number);
  return { x, y };
};
let dragged = null;
document.addEventListener("pointerdown", (event) => {
  const line = event.target.closest?.("[data-drag]");
  const wall = event.target.closest?.("[data-wall]");
  if (!wall || event.button) return;
  const start = placeOn(wall, event);
  if (line) dragged = { wall, line, from: stands(line), start };
  else if (wall.classList.contains("zoomed")) dragged = { wall, view: viewed(wall), clientX: event.clientX, clientY: event.clientY };
  if (!dragged) return;
  if (line) event.preventDefault();
  wall.setPointerCapture(event.pointerId);
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const { wall, line, from, start, view } = dragged;
  if (line) {
    const at = placeOn(wall, event);
    moveLine(line, from.x + at.x - start.x, from.y + at.y - start.y);
    return;
  }
  const scale = view[2] / wall.clientWidth;
  show(wall, [view[0] - (event.clientX - dragged.clientX) * scale, view[1] - (event.clientY - dragged.clientY) * scale, view[2], view[3]]);
});
["pointerup", "pointercancel"].forEach((kind) => document.addEventListener(kind, () => { dragged = null; }));
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-nudge]");
  const line = button && document.querySelector("[data-drag]");
  if (!line) return;
  const [dx, dy] = button.dataset.nudge.split(",").map(Number);
  const at = stands(line);
  moveLine(line, at.x + dx * NUDGE_CM, at.y + dy * NUDGE_CM);
});

// Points are stepped through: arrows among the strip's cells, up and down from the reading's field.
const STEPS = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };
document.addEventListener("keydown", (event) => {
  const step = STEPS[event.key];
  const cell = event.target.closest?.(".strip-cell");
  const field = event.target.matches?.("[data-reading]");
  if (!step || !(cell || (field && step[0]))) return;
  const rows = [...document.querySelectorAll("[data-strip] tbody tr")].map((row) => [...row.querySelectorAll(".strip-cell")]);
  const here = cell || document.querySelector(".strip-cell[aria-current]");
  const all = rows.flat();
  const row = rows.findIndex((cells) => cells.includes(here));
  const next = cell ? rows[row + step[0]]?.[rows[row].indexOf(here) + step[1]] : all[all.indexOf(here) + step[0]];
  if (!next) return;
  event.preventDefault();
  if (cell) next.focus(); else next.click();
});

// On a narrow screen the lamp in hand fills the Wall; beside it the other is a drag away.
const NARROW_PX = 600;
export const fitWalls = () => document.querySelectorAll("[data-wall]").forEach((wall) => {
  const here = wall.querySelector(".wall-point.here, [data-drag]");
  const [x, y, width, height] = home(wall);
  if (!here || wall.clientWidth > NARROW_PX || wall.clientWidth === 0) return;
  const side = stands(here).x > 0 ? 1 : 0;
  show(wall, [x + (side * width) / 2, y, width / 2, height]);
});
