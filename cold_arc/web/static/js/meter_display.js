import { place } from "./meter_head.js";
import { device, field, panel, part } from "./meter_panel.js";

// What the meter shows, asked for a few times a second; its range, unit and hold.
const EVERY_MS = 250;
const WARM_S = 240;
const NEXT_RANGE = { 1: 10, 10: 100, 100: 1 };
export const display = { shown: null, range: 1, unit: "lx", held: false };
let asking = false;

const flags = (shown) =>
  [
    shown.hold && "held",
    shown.overload && "overload: take a higher range",
    shown.steady === false && "settling",
    shown.lit_s < WARM_S && `lamp on for ${Math.round(shown.lit_s)} s`,
    shown.battery !== null && shown.battery !== undefined && shown.battery < 0.15 && "battery low",
  ]
    .filter(Boolean)
    .join(" · ");

const show = (shown) => {
  display.shown = shown;
  part("value").textContent = shown.overload
    ? "OL"
    : shown.value === null
      ? "–"
      : String(shown.value);
  part("said").textContent =
    shown.error || `${shown.unit} ×${shown.range}${flags(shown) ? ` · ${flags(shown)}` : ""}`;
  panel().querySelector("[data-meter-act=hold]").setAttribute("aria-pressed", String(display.held));
};

export const question = (address, more) => {
  const { x, y } = place();
  const asked = {
    x: x.toFixed(2),
    y: y.toFixed(2),
    distance: field("distance"),
    ambient: field("ambient"),
    ...more,
  };
  return `${address}&${new URLSearchParams(asked)}`;
};

export const ask = async () => {
  if (asking || !panel() || !device() || document.hidden) return;
  if (display.held && device() === "feed") {
    // a real meter goes on; what was held here stands
    if (display.shown) show({ ...display.shown, hold: true });
    return;
  }
  asking = true;
  const { range, unit, held } = display;
  try {
    const address = question(panel().dataset.meter, {
      device: device(),
      range,
      unit,
      hold: held ? 1 : 0,
    });
    const answer = await fetch(address, { cache: "no-store" });
    if (answer.ok && panel()) show(await answer.json());
  } catch {
    if (panel()) part("said").textContent = "The server does not answer.";
  } finally {
    asking = false;
  }
};
setInterval(ask, EVERY_MS);

export const hold = () => {
  display.held = !display.held;
  ask();
};
export const nextRange = () => {
  display.range = NEXT_RANGE[display.range];
  ask();
};
export const otherUnit = () => {
  display.unit = display.unit === "lx" ? "fc" : "lx";
  ask();
};
