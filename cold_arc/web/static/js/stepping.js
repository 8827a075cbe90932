// Points are stepped through: arrows among the strip's cells, up and down from the reading's field.
// The place in hand is there already: to tap it is to go to its field.
document.addEventListener(
  "click",
  (event) => {
    if (!event.target.closest?.(".strip-cell[aria-current]")) return;
    event.preventDefault();
    event.stopPropagation();
    document.querySelector("[data-reading]")?.focus();
  },
  true,
);
const STEPS = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };
document.addEventListener("keydown", (event) => {
  const step = STEPS[event.key];
  const cell = event.target.closest?.(".strip-cell");
  const field = event.target.matches?.("[data-reading]");
  if (!step || !(cell || (field && step[0]))) return;
  const rows = [...document.querySelectorAll("[data-strip] tbody tr")].map((row) => [
    ...row.querySelectorAll(".strip-cell"),
  ]);
  const here = cell || document.querySelector(".strip-cell[aria-current]");
  const all = rows.flat();
  const row = rows.findIndex((cells) => cells.includes(here));
  const next = cell
    ? rows[row + step[0]]?.[rows[row].indexOf(here) + step[1]]
    : all[all.indexOf(here) + step[0]];
  if (!next) return;
  event.preventDefault();
  if (cell) next.focus();
  else next.click();
});
