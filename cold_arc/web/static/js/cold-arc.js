// Small sprinkles: keys, lamps tapped on the face, drafts kept. No state of its own.
(() => {
  "use strict";
  const $ = (selector) => document.querySelector(selector);
  const press = (element) => element && !element.disabled && element.click();

  // Keys work outside fields, without a modifier.
  const scopeLink = (index) => {
    const links = [...document.querySelectorAll(".scopes a")].filter((a) => /^\/jobs\/\d+\/[a-z]+(-[a-z]+)?\//.test(a.pathname));
    const here = location.pathname.split("/")[3] || "";
    const name = here.split("-")[0] + index;
    return links.find((a) => a.pathname.split("/")[3] === name);
  };
  const stageStep = (by) => {
    const stops = [...document.querySelectorAll(".track-stop")];
    return stops[stops.findIndex((a) => a.classList.contains("here")) + by];
  };
  const firstField = () => {
    const field = $("#work input.entry:not([type=hidden]), #work textarea, #work select, #work input[type=radio]");
    if (field) field.focus();
  };
  const keys = {
    "[": () => press(stageStep(-1)),
    "]": () => press(stageStep(1)),
    b: () => press(scopeLink("")),
    l: () => press(scopeLink("-left")),
    r: () => press(scopeLink("-right")),
    e: firstField,
    t: () => press($("[data-tick]")),
    m: () => { const main = $("[data-main]"); if (main) { main.focus(); press(main); } },
    u: () => press($("[data-undo]")),
  };
  const inField = (target) => target.closest("input:not([type=checkbox]):not([type=radio]), textarea, select, dialog");
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && inField(event.target)) { event.target.blur(); return; }
    if (event.ctrlKey || event.metaKey || event.altKey || inField(event.target)) return;
    const toggle = event.target.closest("[data-toggles]");
    if (toggle && (event.key === " " || event.key === "Enter")) { event.preventDefault(); toggleLamp(toggle); return; }
    const action = keys[event.key];
    const marked = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
    if (!action && !marked) return;
    event.preventDefault();
    if (action) action(); else press(marked);
  });

  // The face's lamps tie to their checkboxes.
  const boxOf = (lamp) => document.getElementById(lamp.dataset.toggles);
  const showLamp = (lamp) => {
    const box = boxOf(lamp);
    if (!box) return;
    lamp.classList.toggle("chosen", box.checked);
    lamp.setAttribute("aria-checked", String(box.checked));
  };
  const showLamps = () => document.querySelectorAll("[data-toggles]").forEach(showLamp);
  const toggleLamp = (lamp) => { const box = boxOf(lamp); if (box) { box.checked = !box.checked; showLamp(lamp); box.dispatchEvent(new Event("input", { bubbles: true })); } };

  // Night and day change in place, so that nothing typed is disturbed; without script the button's form does it.
  const changeTheme = (button) => {
    const theme = button.value;
    document.documentElement.dataset.bsTheme = theme === "day" ? "light" : "dark";
    document.cookie = `theme=${theme}; path=/; max-age=31536000; samesite=lax`;
    button.value = theme === "day" ? "night" : "day";
    button.textContent = theme === "day" ? "Day" : "Night";
  };

  document.addEventListener("click", (event) => {
    const theme = event.target.closest("button[name=theme]");
    if (theme) { event.preventDefault(); return changeTheme(theme); }
    const lamp = event.target.closest("[data-toggles]");
    if (lamp) return toggleLamp(lamp);
    const opener = event.target.closest("[data-open]");
    if (opener) return document.getElementById(opener.dataset.open).showModal();
    if (event.target.closest("[data-print]")) return window.print();
  });

  // Preferences come back to where one is, even after parts of the page were swapped.
  document.addEventListener("submit", (event) => {
    const back = event.target.querySelector(".top-links [name=back], [name=back]");
    if (event.target.closest(".top-links") && back) back.value = location.pathname + location.search;
    forget(event.target);
  });

  // What is typed but not recorded survives leaving the page.
  const draftKey = (field) => `draft ${location.pathname} ${field.name}`;
  const kept = (field) => field.matches("#work input.entry[name], #work textarea[name]") && field.type !== "date";
  const keep = (field) => { if (kept(field)) sessionStorage.setItem(draftKey(field), field.value); };
  const forget = (form) => form.querySelectorAll("[name]").forEach((field) => sessionStorage.removeItem(draftKey(field)));
  const restore = () => document.querySelectorAll("#work input.entry[name], #work textarea[name]").forEach((field) => {
    const draft = sessionStorage.getItem(draftKey(field));
    if (draft !== null && field.type !== "date" && draft !== field.value) {
      field.value = draft;
      field.classList.add("draft");
      field.dispatchEvent(new Event("input", { bubbles: true }));
    }
  });
  document.addEventListener("input", (event) => {
    keep(event.target);
    const box = event.target.closest("[id^=lamps-]");
    if (box) showLamps();
  });

  // The bench: sliders say their value, the wipe uncovers the before picture, the wall answers a pointer.
  document.addEventListener("input", (event) => {
    const { shows } = event.target.dataset;
    if (shows) document.getElementById(shows).textContent = event.target.value;
    if ("wipe" in event.target.dataset) {
      const wall = event.target.closest(".wipe").previousElementSibling;
      const width = Number(wall.querySelector("image").getAttribute("width"));
      wall.querySelector(".wipe-rect").setAttribute("width", (width * event.target.value) / 100);
    }
  });
  let asked = 0;
  const ask = (event) => {
    const wall = event.target.closest?.("[data-probe]");
    if (!wall || (event.type === "pointermove" && Date.now() - asked < 120)) return;
    asked = Date.now();
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(wall.getScreenCTM().inverse());
    htmx.ajax("GET", `${wall.dataset.probe}&h=${at.x.toFixed(2)}&v=${(-at.y).toFixed(2)}`, { target: "#probe", swap: "innerHTML" });
  };
  document.addEventListener("pointermove", ask);
  document.addEventListener("pointerdown", ask);

  // A list in a frame of its own stays where it was scrolled to when its part of the page is swapped.
  const scrolled = {};
  document.addEventListener("htmx:beforeSwap", () => document.querySelectorAll("[data-keep-scroll]").forEach((frame) => { scrolled[frame.dataset.keepScroll] = frame.scrollTop; }));
  document.addEventListener("htmx:afterSwap", () => document.querySelectorAll("[data-keep-scroll]").forEach((frame) => { frame.scrollTop = scrolled[frame.dataset.keepScroll] || 0; }));
  let scrolledByHand = false;
  ["wheel", "pointerdown", "touchmove", "keydown"].forEach((kind) => document.addEventListener(kind, (event) => { if (event.target.closest?.("[data-keep-scroll]")) scrolledByHand = true; }, { passive: true }));
  const showLooked = () => scrolledByHand || document.querySelectorAll("[data-keep-scroll] .looked").forEach((row) => {
    const frame = row.closest("[data-keep-scroll]");
    if (row.offsetTop < frame.scrollTop + 40 || row.offsetTop + row.offsetHeight > frame.scrollTop + frame.clientHeight) frame.scrollTop = row.offsetTop - 60;
  });

  const settle = () => { showLamps(); restore(); showLooked(); };
  document.addEventListener("htmx:afterSettle", (event) => { showLooked(); if (event.target.id === "page" || event.target.querySelector?.("#work")) settle(); });
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", settle); else settle();
})();
