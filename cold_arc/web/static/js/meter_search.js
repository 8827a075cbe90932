import { display, question } from "./meter_display.js";
import { place, put } from "./meter_head.js";
import { panel, part } from "./meter_panel.js";

// The search for the brightest point: each reading so far is told, the head goes where the next is
// to be read.
const searched = new Map();

export const search = async () => {
  const { shown } = display;
  if (shown?.steady === false) {
    part("search").textContent = "Wait until the display has settled.";
    return;
  }
  const lamp = panel().dataset.search;
  const taken = searched.get(lamp) || [];
  if (shown && shown.lux !== null && taken.asked)
    taken.push([place().x.toFixed(1), place().y.toFixed(1), shown.lux]);
  const answer = await fetch(
    question(lamp, { taken: taken.map((reading) => reading.join(",")).join(";") }),
    { cache: "no-store" },
  );
  if (!answer.ok) return;
  const advice = await answer.json();
  part("search").textContent = advice.error || advice.words;
  if (advice.error) return;
  if (advice.found) {
    put(advice.x, advice.y);
    searched.delete(lamp);
  } else {
    put(advice.next_x, advice.next_y);
    taken.asked = true;
    searched.set(lamp, taken);
  }
};
