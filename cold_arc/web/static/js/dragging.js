import { letGo } from "./live.js";
import { placeOn, stands } from "./wall.js";

// The cut-off is dragged, or nudged: its place is written into the fields as one would type it, and
// shown at once.
const NUDGE_CM = 0.5;
const INCH_CM = 2.54;
const inches = () => document.querySelector("button[name=units]")?.value === "metric";
export const written = (cm, words) => {
  const value = inches() ? cm / INCH_CM : cm;
  const figure = Math.abs(value).toFixed(inches() ? 2 : 1);
  return Number(figure) === 0
    ? `0 ${inches() ? "in" : "cm"}`
    : `${figure} ${inches() ? "in" : "cm"} ${words[value > 0 ? 1 : 0]}`;
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
let dragged = null;
document.addEventListener("pointerdown", (event) => {
  const line = event.target.closest?.("[data-drag]");
  if (!line || event.button) return;
  const wall = line.ownerSVGElement;
  event.preventDefault();
  wall.setPointerCapture(event.pointerId);
  dragged = { wall, line, from: stands(line), start: placeOn(wall, event) };
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const { wall, line, from, start } = dragged;
  const at = placeOn(wall, event);
  moveLine(line, from.x + at.x - start.x, from.y + at.y - start.y);
});
["pointerup", "pointercancel"].forEach((kind) =>
  document.addEventListener(kind, () => {
    dragged = null;
  }),
);
document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-nudge]");
  const line = button && document.querySelector("[data-drag]");
  if (!line) return;
  const [dx, dy] = button.dataset.nudge.split(",").map(Number);
  const at = stands(line);
  moveLine(line, at.x + dx * NUDGE_CM, at.y + dy * NUDGE_CM);
});

// The bench's bulb is dragged in its section: forward and up, by the sliders that hold those.
let bulb = null;
const slide = (name, value) => {
  const slider = document.querySelector(`#work [type=range][name=${name}]`);
  slider.value = value;
  slider.dispatchEvent(new Event("input", { bubbles: true }));
};
document.addEventListener("pointerdown", (event) => {
  const section = event.target.closest?.("[data-bulb]")?.ownerSVGElement;
  if (!section) return;
  event.preventDefault();
  const held = (name) => Number(document.querySelector(`#work [type=range][name=${name}]`).value);
  bulb = {
    toSection: section.getScreenCTM().inverse(),
    start: null,
    axial: held("axial"),
    up: held("radial_y"),
  };
  bulb.start = new DOMPoint(event.clientX, event.clientY).matrixTransform(bulb.toSection);
});
document.addEventListener("pointermove", (event) => {
  if (!bulb) return;
  const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(bulb.toSection);
  slide("axial", bulb.axial + at.x - bulb.start.x);
  slide("radial_y", bulb.up - (at.y - bulb.start.y));
});
["pointerup", "pointercancel"].forEach((kind) =>
  document.addEventListener(kind, () => {
    if (bulb) letGo(document.querySelector("#work [type=range][name=axial]"));
    bulb = null;
  }),
);
