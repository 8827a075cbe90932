// Small sprinkles by behaviour; what a part of the page needs when it comes in is settled here.
import "./dial.js";
import "./dragging.js";
import { restore } from "./drafts.js";
import { showLamps } from "./face.js";
import "./live_camera.js";
import "./marks.js";
import { takeMeter } from "./meter.js";
import { showLooked } from "./scrolling.js";
import { sendInPlace } from "./sending.js";
import "./shell.js";
import "./signing.js";
import "./presses.js";
import "./stepping.js";
import "./taps.js";
import { startClocks } from "./together.js";
import { fitWalls } from "./wall.js";

const settle = () => {
  sendInPlace();
  showLamps();
  restore();
  showLooked();
  fitWalls();
  takeMeter();
  startClocks();
};

document.addEventListener("htmx:afterSettle", (event) => {
  showLooked();
  if (event.target.id === "page" || event.target.querySelector?.("#work")) settle();
});
settle();
