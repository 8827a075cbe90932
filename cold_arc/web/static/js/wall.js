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

const ask = (event) => {
  const wall = event.target.closest?.("[data-probe]");
  if (!wall || (event.type === "pointermove" && Date.now() - asked < ASK_EVERY_MS)) return;
  asked = Date.now();
  const at = placeOn(wall, event);
  htmx.ajax("GET", `${wall.dataset.probe}&h=${at.x.toFixed(2)}&v=${(-at.y).toFixed(2)}`, { target: "#probe", swap: "innerHTML" });
};
document.addEventListener("pointermove", ask);
document.addEventListener("pointerdown", ask);
