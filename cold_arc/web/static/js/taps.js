// A tap that saves is never lost: one that comes while another is under way waits, visibly, and is
// done on the page that comes of it.
const waiting = [];
let underWay = null;
const SHOWN_WITHIN_MS = 500;

const tapOf = (form, button) => ({
  action: form.getAttribute("action") || "",
  name: button.name,
  value: button.value,
});
const isSame = (one, other) =>
  one && one.action === other.action && one.name === other.name && one.value === other.value;

const buttonOf = (tap) =>
  [...document.querySelectorAll("#page button[name]")].find(
    (button) => button.form && isSame(tapOf(button.form, button), tap),
  );

// A form with something typed or chosen in it is no tap: it goes its own way, as it stands.
const isFilled = (form) =>
  [...form.elements].some((field) => {
    if (field.type === "hidden" || field.tagName === "BUTTON" || field.tagName === "FIELDSET")
      return false;
    if (field.type === "checkbox" || field.type === "radio")
      return field.checked !== field.defaultChecked;
    if (field.tagName === "SELECT")
      return [...field.options].some((option) => option.selected !== option.defaultSelected);
    return field.value !== field.defaultValue;
  });

const refuse = () => {
  const work = document.getElementById("work");
  if (!work || work.querySelector(".tap-refused")) return;
  const notice = document.createElement("p");
  notice.className = "tap-refused field-error";
  notice.setAttribute("role", "alert");
  notice.textContent = "One tap was not done: the page had changed by then. Look, then tap again.";
  work.prepend(notice);
};

const next = () => {
  underWay = null;
  const tap = waiting.shift();
  if (!tap) return;
  const button = buttonOf(tap);
  if (button) button.click();
  else {
    refuse();
    next();
  }
};

document.addEventListener(
  "submit",
  (event) => {
    const button = event.submitter;
    if (!underWay || !button?.name || !event.target.closest("#page") || isFilled(event.target))
      return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const tap = tapOf(event.target, button);
    // the same tap, done once
    if (isSame(underWay, tap) || waiting.some((other) => isSame(other, tap))) return;
    waiting.push(tap);
    button.setAttribute("aria-busy", "true");
  },
  true,
);

document.addEventListener("htmx:beforeRequest", ({ detail }) => {
  const button = detail.requestConfig?.triggeringEvent?.submitter;
  if (detail.requestConfig?.verb === "post" && button?.name && button.form?.closest("#page"))
    underWay = tapOf(button.form, button);
});
// What was saved is shown before the next is done; what failed, or changed another part of the
// page, keeps nobody waiting.
document.addEventListener("htmx:afterRequest", () => {
  const answered = underWay;
  if (answered) setTimeout(() => underWay === answered && next(), SHOWN_WITHIN_MS);
});
document.addEventListener("htmx:afterSettle", (event) => {
  if (underWay && event.target.id === "page") next();
});
["htmx:sendError", "htmx:timeout", "htmx:responseError", "htmx:sendAbort"].forEach((name) =>
  document.addEventListener(name, ({ detail }) => {
    if (underWay && detail.requestConfig?.verb === "post") {
      underWay = null;
      if (waiting.splice(0).length) refuse();
    }
  }),
);
