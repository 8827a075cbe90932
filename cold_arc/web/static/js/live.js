// While a slider of the bench is dragged, or the bulb in its section, the Wall follows with a
// coarse picture, one at a time; everything else is computed when it is let go.
let dragging = false;
let busy = false;
let again = false;

const follow = (form) => {
  if (busy) {
    again = true;
    return;
  }
  busy = true;
  const query = new URLSearchParams([...new FormData(form)].filter(([, value]) => value));
  const coarse = `${form.dataset.live}?${query}&coarse=1`;
  const picture = new Image();
  const done = () => {
    busy = false;
    if (again && dragging) follow(form);
    again = false;
  };
  picture.onload = () => {
    if (dragging)
      document.querySelector("#bench-result [data-wall] image").setAttribute("href", coarse);
    done();
  };
  picture.onerror = done;
  picture.src = coarse;
};

document.addEventListener(
  "input",
  (event) => {
    const form = event.target.type === "range" && event.target.closest?.("[data-live]");
    if (!form || event.detail?.full) return;
    event.stopPropagation();
    if (event.target.dataset.shows)
      document.getElementById(event.target.dataset.shows).textContent = event.target.value;
    dragging = true;
    follow(form);
  },
  true,
);

export const letGo = (slider) => {
  dragging = false;
  slider.dispatchEvent(new CustomEvent("input", { bubbles: true, detail: { full: true } }));
};
document.addEventListener("change", (event) => {
  if (event.target.type === "range" && event.target.closest?.("[data-live]")) letGo(event.target);
});
