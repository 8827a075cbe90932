// Keys work outside fields, without a modifier. A classic script, so that no key goes lost on a
// page just opened.
(() => {
  "use strict";
  const find = (selector) => document.querySelector(selector);
  const press = (element) => element && !element.disabled && element.click();
  const scopeLink = (side) => {
    const here = location.pathname.split("/")[3] || "";
    const name = here.replace(/-(left|right)$/, "") + side;
    return [...document.querySelectorAll(".scopes a")].find(
      (a) => a.pathname.split("/")[3] === name,
    );
  };
  const stageStep = (by) => {
    const stops = [...document.querySelectorAll(".track-stop")];
    return stops[stops.findIndex((a) => a.classList.contains("here")) + by];
  };
  const focusFirst = () =>
    (
      find("#work [data-reading]") ||
      find(
        "#work input.form-control:not([type=hidden]), #work textarea, #work select, " +
          "#work input[type=radio]",
      )
    )?.focus();
  const mainAction = () => {
    const main = find("[data-main]");
    main?.focus();
    press(main);
  };
  const keys = {
    "[": () => press(stageStep(-1)),
    "]": () => press(stageStep(1)),
    b: () => press(scopeLink("")),
    l: () => press(scopeLink("-left")),
    r: () => press(scopeLink("-right")),
    e: focusFirst,
    t: () => press(find("[data-tick]")),
    m: mainAction,
    u: () => press(find("[data-undo]")),
  };
  const inField = (target) =>
    target.closest("input:not([type=checkbox]):not([type=radio]), textarea, select, dialog");
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && inField(event.target)) {
      event.target.blur();
      return;
    }
    if (
      event.defaultPrevented ||
      event.ctrlKey ||
      event.metaKey ||
      event.altKey ||
      inField(event.target)
    )
      return;
    const tapped = event.target.closest("[data-toggles]");
    if (tapped && (event.key === " " || event.key === "Enter")) {
      event.preventDefault();
      tapped.dispatchEvent(new MouseEvent("click", { bubbles: true }));
      return;
    }
    const marked = find(`[data-key="${CSS.escape(event.key)}"]`);
    const action =
      keys[event.key] || (() => (marked.matches("input") ? marked.focus() : press(marked)));
    if (!keys[event.key] && !marked) return;
    event.preventDefault();
    action();
  });
})();
