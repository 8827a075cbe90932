// What a form asks for while its next answer is being pressed is not put in its place: a press
// whose two halves meet two pages is no tap, and would be lost. The form asks again once it is let
// go, with what was pressed. What was let go outside the window is told by the next key. How long
// after it the form asks, ms: a tap's own request begins before (own).
const LET_GO_MS = 50;
let pressed = null;
let asking = null;

const letGo = () => {
  pressed = null;
  if (asking) setTimeout(askAgain, LET_GO_MS);
};

const askAgain = () => {
  const form = asking;
  asking = null;
  if (form?.isConnected && !form.classList.contains("htmx-request")) htmx.trigger(form, "change");
};

document.addEventListener(
  "pointerdown",
  (event) => {
    pressed = event.target;
  },
  true,
);
for (const end of ["pointerup", "pointercancel", "keydown"])
  document.addEventListener(end, letGo, true);

document.addEventListener("htmx:beforeSwap", (event) => {
  const form = event.detail.requestConfig.elt;
  if (
    !pressed ||
    !form.matches("form[hx-get]") ||
    !form.contains(pressed) ||
    !event.detail.target.contains(form)
  )
    return;
  event.detail.shouldSwap = false;
  asking = form;
});
