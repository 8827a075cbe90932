import { ask, display, hold, nextRange, otherUnit } from "./meter_display.js";
import { bringHome, head, isAway, place, put, walk } from "./meter_head.js";
import { device, panel, part } from "./meter_panel.js";
import { search } from "./meter_search.js";

// The meter on the page: which device is chosen, and what its buttons and keys do.
const KEPT = "cold-arc-meter";
const KEYS = { " ": "hold", p: "search", g: "range", Enter: "record", Home: "home" };
let recording = false;

// What it shows is written as one would type it, with its place: when Enter is pressed on its head,
// or the form is sent with nothing typed. A named place is read where it is; elsewhere is a free
// place.
const takeOver = () => {
  const form = document.querySelector("[data-readings]");
  const typed = form?.querySelector("[data-reading]");
  if (!typed || typed.value || !device() || !display.shown?.typed) return false;
  if (isAway()) {
    part("search").textContent =
      "The head is not at this place: Home brings it back, or take a free place.";
    return false;
  }
  typed.value = display.shown.typed;
  put(place().x, place().y);
  if (device() === "simulated") form.elements.meter.value = "simulated";
  display.held = false;
  return true;
};
const record = () => {
  const form = document.querySelector("[data-readings]");
  if (!takeOver()) return;
  recording = document.activeElement === head();
  form.requestSubmit(form.querySelector("button.btn-primary"));
};
document.addEventListener(
  "click",
  (event) => {
    if (event.target.closest?.("[data-readings] button:not([type=button])") && device()) takeOver();
  },
  true,
);

const acts = {
  hold,
  range: nextRange,
  unit: otherUnit,
  search: () => document.querySelector("[data-meter-act=search]") && search(),
  record,
  home: bringHome,
};

const take = (chosen) => {
  localStorage.setItem(KEPT, chosen);
  part("shown").hidden = !chosen;
  panel()
    .querySelectorAll("[data-simulated]")
    .forEach((button) => {
      button.hidden = chosen !== "simulated";
    });
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
document.addEventListener(
  "keydown",
  (event) => {
    if (
      !event.target.matches?.("[data-head]") ||
      !device() ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey
    )
      return;
    const act = KEYS[event.key];
    if (!act && !walk(event)) return;
    event.preventDefault();
    event.stopPropagation();
    if (act) acts[act]();
  },
  true,
);
