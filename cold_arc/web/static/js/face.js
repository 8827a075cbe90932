// The Face's lamps tie to their checkboxes: a tap takes the pair; again it narrows: left, right,
// none.
const TAPS = { "": ["left", "right"], "left,right": ["left"], left: ["right"], right: [] };

const showLamp = (lamp) => {
  const box = document.getElementById(lamp.dataset.toggles);
  if (!box) return;
  lamp.classList.toggle("chosen", box.checked);
  lamp.setAttribute("aria-checked", String(box.checked));
};

export const showLamps = () => document.querySelectorAll("[data-toggles]").forEach(showLamp);

const toggleLamp = (lamp) => {
  const boxes = ["left", "right"]
    .map((side) => [side, document.getElementById(`work-${lamp.dataset.pair}-${side}`)])
    .filter(([, box]) => box);
  const next =
    TAPS[
      boxes
        .filter(([, box]) => box.checked)
        .map(([side]) => side)
        .join()
    ] || [];
  boxes.forEach(([side, box]) => {
    box.checked = next.includes(side);
    box.dispatchEvent(new Event("input", { bubbles: true }));
  });
  showLamps();
};

document.addEventListener("click", (event) => {
  const lamp = event.target.closest("[data-toggles]");
  if (lamp) toggleLamp(lamp);
});
document.addEventListener("click", (event) => {
  if (!event.target.closest("[data-chooses-none]")) return;
  document.querySelectorAll("input[id^=work-]:checked").forEach((box) => {
    box.checked = false;
    box.dispatchEvent(new Event("input", { bubbles: true }));
  });
});
document.addEventListener("input", (event) => {
  if (event.target.closest("[id^=work-]")) showLamps();
});

// A place of a drawn front picks its field, by a tap or by Enter and Space.
const pick = (event) => {
  const place = event.target.closest?.("[data-picks]");
  if (!place) return;
  document.getElementById(place.dataset.picks)?.click();
  event.preventDefault();
};
document.addEventListener("click", pick);
document.addEventListener("keydown", (event) => {
  if (event.key === "Enter" || event.key === " ") pick(event);
});
