import { written } from "./dragging.js";
import { placeOn, stands } from "./wall.js";

// The meter: what it shows is asked for a few times a second; its head is dragged on the Wall or walked with the arrows,
// space holds the display, Enter records it, p searches the brightest point.
const EVERY_MS = 250;
const STEP_CM = 1;
const FAR_STEP_CM = 10;
const AWAY_CM = 2;
const WARM_S = 240;
const KEPT = "cold-arc-meter";
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
let shown = null;
let asking = false;
let range = 1;
let unit = "lx";
let held = false;
let recording = false;
const searched = new Map();

const panel = () => document.querySelector("[data-meter]");
const head = () => document.querySelector("[data-head]");
const device = () => panel()?.querySelector("[data-meter-device]").value || "";
const field = (name) => document.querySelector(`[data-readings] [name=${name}]`)?.value || "";
const part = (name) => panel().querySelector(`[data-meter-${name}]`);

// Where the head is held, cm right and down of its lamp.
const place = () => {
  const headDrawn = head();
  if (!headDrawn) return { x: 0, y: 0 };
  const at = stands(headDrawn);
  return { x: at.x - Number(headDrawn.dataset.lampX), y: at.y - Number(headDrawn.dataset.lampY) };
};
const put = (x, y) => {
  const moved = head();
  moved.setAttribute("transform", `translate(${(x + Number(moved.dataset.lampX)).toFixed(2)} ${(y + Number(moved.dataset.lampY)).toFixed(2)})`);
  const words = { right: written(x, ["left", "right"]), down: written(y, ["up", "down"]) };
  document.querySelectorAll("[data-readings] [data-place]").forEach((told) => { told.value = words[told.dataset.place]; });
};

const flags = (it) => [
  it.hold && "held",
  it.overload && "overload: take a higher range",
  it.steady === false && "settling",
  it.lit_s < WARM_S && `lamp on for ${Math.round(it.lit_s)} s`,
  it.battery !== null && it.battery !== undefined && it.battery < 0.15 && "battery low",
].filter(Boolean).join(" · ");

const show = (it) => {
  shown = it;
  part("value").textContent = it.overload ? "OL" : it.value === null ? "–" : String(it.value);
  part("said").textContent = it.error || `${it.unit} ×${it.range}${flags(it) ? ` · ${flags(it)}` : ""}`;
  panel().querySelector("[data-meter-act=hold]").setAttribute("aria-pressed", String(held));
};

const question = (address, more) => {
  const { x, y } = place();
  const told = { x: x.toFixed(2), y: y.toFixed(2), distance: field("distance"), ambient: field("ambient"), ...more };
  return `${address}&${new URLSearchParams(told)}`;
};

const ask = async (more = {}) => {
  if (asking || !panel() || !device() || document.hidden) return;
  if (held && device() === "feed") { // a real meter goes on; what was held here stands
    if (shown) show({ ...shown, hold: true });
    return;
  }
  asking = true;
  try {
    const answer = await fetch(question(panel().dataset.meter, { device: device(), range, unit, hold: held ? 1 : 0, ...more }), { cache: "no-store" });
    if (answer.ok && panel()) show(await answer.json());
  } catch {
    if (panel()) part("said").textContent = "The server does not answer.";
  } finally {
    asking = false;
  }
};
setInterval(ask, EVERY_MS);

// What it shows is written as one would type it, with its place: when Enter is pressed on its head, or the form is sent
// with nothing typed. A named place is read where it is; elsewhere is a free place.
const isAway = () => {
  const moved = head();
  if (!moved || document.querySelector("[data-readings] [data-place]")) return false;
  const at = stands(moved);
  return Math.hypot(at.x - Number(moved.dataset.homeX), at.y - Number(moved.dataset.homeY)) > AWAY_CM;
};
const takeOver = () => {
  const form = document.querySelector("[data-readings]");
  const typed = form?.querySelector("[data-reading]");
  if (!typed || typed.value || !device() || !shown?.typed) return false;
  if (isAway()) {
    part("search").textContent = "The head is not at this place: Home brings it back, or take a free place.";
    return false;
  }
  typed.value = shown.typed;
  put(place().x, place().y);
  if (device() === "simulated") form.elements.meter.value = "simulated";
  held = false;
  return true;
};
const record = () => {
  const form = document.querySelector("[data-readings]");
  if (!takeOver()) return;
  recording = document.activeElement === head();
  form.requestSubmit(form.querySelector("button.btn-primary"));
};
document.addEventListener("click", (event) => {
  if (event.target.closest?.("[data-readings] button:not([type=button])") && device()) takeOver();
}, true);

const search = async () => {
  if (shown?.steady === false) {
    part("search").textContent = "Wait until the display has settled.";
    return;
  }
  const known = searched.get(panel().dataset.search) || [];
  if (shown && shown.lux !== null && known.asked) known.push([place().x.toFixed(1), place().y.toFixed(1), shown.lux]);
  const address = question(panel().dataset.search, { taken: known.map((it) => it.join(",")).join(";") });
  const answer = await fetch(address, { cache: "no-store" });
  if (!answer.ok) return;
  const told = await answer.json();
  part("search").textContent = told.error || told.words;
  if (told.error) return;
  if (told.found) {
    put(told.x, told.y);
    searched.delete(panel().dataset.search);
  } else {
    put(told.next_x, told.next_y);
    known.asked = true;
    searched.set(panel().dataset.search, known);
  }
};

const acts = {
  hold: () => { held = !held; ask(); },
  range: () => { range = { 1: 10, 10: 100, 100: 1 }[range]; ask(); },
  unit: () => { unit = unit === "lx" ? "fc" : "lx"; ask(); },
  search: () => document.querySelector("[data-meter-act=search]") && search(),
  record,
  home: () => put(Number(head().dataset.homeX) - Number(head().dataset.lampX), Number(head().dataset.homeY) - Number(head().dataset.lampY)),
};

const take = (chosen) => {
  localStorage.setItem(KEPT, chosen);
  part("shown").hidden = !chosen;
  panel().querySelectorAll("[data-simulated]").forEach((button) => { button.hidden = chosen !== "simulated"; });
  document.querySelector("[data-wall]")?.classList.toggle("with-meter", Boolean(chosen));
  document.querySelector("[data-readings]")?.classList.toggle("metered", Boolean(chosen));
  if (!chosen) return;
  const { x, y } = place();
  if (head()) put(x, y);
  ask();
};

export const takeMeter = () => {
  if (!panel()) return;
  const select = panel().querySelector("[data-meter-device]");
  select.value = localStorage.getItem(KEPT) || "";
  take(select.value);
  if (recording && device()) head()?.focus();
  recording = false;
};

document.addEventListener("change", (event) => {
  if (event.target.matches?.("[data-meter-device]")) take(event.target.value);
});
document.addEventListener("click", (event) => {
  const button = event.target.closest?.("[data-meter-act]");
  if (button) acts[button.dataset.meterAct]();
});
const KEYS = { " ": "hold", p: "search", g: "range", Enter: "record", Home: "home" };
document.addEventListener("keydown", (event) => {
  if (!event.target.matches?.("[data-head]") || !device() || event.ctrlKey || event.metaKey || event.altKey) return;
  const arrow = ARROWS[event.key];
  if (!arrow && !KEYS[event.key]) return;
  event.preventDefault();
  event.stopPropagation();
  if (KEYS[event.key]) {
    acts[KEYS[event.key]]();
    return;
  }
  const step = event.shiftKey ? FAR_STEP_CM : STEP_CM;
  const at = place();
  put(at.x + arrow[0] * step, at.y + arrow[1] * step);
}, true);

let dragged = null;
document.addEventListener("pointerdown", (event) => {
  const it = event.target.closest?.("[data-head]");
  if (!it || event.button || !device()) return;
  event.preventDefault();
  it.focus();
  const wall = it.ownerSVGElement;
  wall.setPointerCapture(event.pointerId);
  const at = placeOn(wall, event);
  dragged = { wall, from: place(), x: at.x, y: at.y };
});
document.addEventListener("pointermove", (event) => {
  if (!dragged) return;
  const at = placeOn(dragged.wall, event);
  put(dragged.from.x + at.x - dragged.x, dragged.from.y + at.y - dragged.y);
});
["pointerup", "pointercancel"].forEach((kind) => document.addEventListener(kind, () => { dragged = null; }));
