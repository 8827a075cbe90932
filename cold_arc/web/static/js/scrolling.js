// A list in a frame of its own stays where it was scrolled to when its part of the page is swapped.
const HEAD_PX = 40;
const scrolled = {};
let byHand = false;

const frames = () => document.querySelectorAll("[data-keep-scroll]");

document.addEventListener("htmx:beforeSwap", () =>
  frames().forEach((frame) => {
    scrolled[frame.dataset.keepScroll] = frame.scrollTop;
  }),
);
document.addEventListener("htmx:afterSwap", () =>
  frames().forEach((frame) => {
    frame.scrollTop = scrolled[frame.dataset.keepScroll] || 0;
  }),
);
["wheel", "pointerdown", "touchmove", "keydown"].forEach((kind) =>
  document.addEventListener(
    kind,
    (event) => {
      if (event.target.closest?.("[data-keep-scroll]")) byHand = true;
    },
    { passive: true },
  ),
);

export const showLooked = () =>
  byHand ||
  document.querySelectorAll("[data-keep-scroll] .looked").forEach((row) => {
    const frame = row.closest("[data-keep-scroll]");
    const above = row.offsetTop < frame.scrollTop + HEAD_PX;
    const below = row.offsetTop + row.offsetHeight > frame.scrollTop + frame.clientHeight;
    if (above || below) frame.scrollTop = row.offsetTop - HEAD_PX - 20;
  });
