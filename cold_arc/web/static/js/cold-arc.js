// Small sprinkles: keys, lamps tapped on the face, drafts kept. No state of its own.
(() => {
  "use strict";
  const $ = (selector) => document.querySelector(selector);
  const press = (element) => element && !element.disabled && element.click();

  // Keys work outside fields, without a modifier.
  const scopeLink = (index) => {
    const links = [...document.querySelectorAll(".scopes a")];
    const here = location.pathname.split("/")[3] || "";
    const name = here.replace(/-(left|right)$/, "") + index;
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
  // A tap takes the pair; again it narrows: left, right, none.
  const TAPS = { "": ["left", "right"], "left,right": ["left"], left: ["right"], right: [] };
  const toggleLamp = (lamp) => {
    const boxes = ["left", "right"].map((side) => [side, document.getElementById(`work-${lamp.dataset.pair}-${side}`)]).filter(([, box]) => box);
    const next = TAPS[boxes.filter(([, box]) => box.checked).map(([side]) => side).join()] || [];
    boxes.forEach(([side, box]) => { box.checked = next.includes(side); box.dispatchEvent(new Event("input", { bubbles: true })); });
    showLamps();
  };

  // Text with two readings: the one tapped is written in its place, and the field has the focus again.
  const write = (field, text) => {
    field.value = text;
    field.focus();
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };

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
    const meant = event.target.closest("[data-means]");
    if (meant) return write(document.getElementById(meant.dataset.into), meant.dataset.means);
  });

  // Preferences come back to where one is, even after parts of the page were swapped.
  document.addEventListener("submit", (event) => {
    const back = event.target.querySelector(".top-links [name=back], [name=back]");
    if (event.target.closest(".top-links") && back) back.value = location.pathname + location.search;
  });

  // Every form that saves is sent without leaving the page, so that a failure costs nothing that was typed.
  const sendInPlace = () => document.querySelectorAll("form[method=post]:not([enctype]):not([hx-boost])").forEach((form) => {
    if (form.closest(".top-links, [hx-boost=true]")) return;
    const how = { "hx-boost": "true", "hx-target": "#page", "hx-select": "#page", "hx-swap": "outerHTML show:none", "hx-sync": "this:replace" };
    Object.entries(how).forEach(([name, value]) => form.setAttribute(name, value));
    htmx.process(form);
  });
  const posted = ({ detail }) => detail.requestConfig?.verb === "post" && detail.requestConfig.elt.closest("form");
  const say = (form, text) => {
    const button = form.querySelector("button:not([type=button])") || form.lastElementChild;
    const told = form.querySelector(".send-error") || document.createElement("p");
    told.className = "send-error field-error";
    told.setAttribute("role", "alert");
    told.textContent = text;
    button.closest("p, div, form").append(told);
  };
  const renewed = async () => {
    const answer = await fetch("/token", { cache: "no-store" });
    const token = await answer.text();
    document.querySelectorAll("[name=csrf_token]").forEach((field) => { field.value = token; });
  };
  const FAILED = {
    400: "Not saved: this page was too old. It has been renewed: press again.",
    413: "Not saved: that was more than a megabyte.",
    503: "Not saved: the data is busy. What you typed is kept: press again.",
  };
  document.addEventListener("htmx:beforeRequest", (event) => { const form = posted(event); if (form) form.dataset.from = location.pathname; });
  document.addEventListener("htmx:afterRequest", (event) => {
    const form = posted(event);
    const tap = event.detail.requestConfig.triggeringEvent?.submitter?.name === "build"; // shown again, not saved
    if (form && event.detail.successful && !tap) forget(form, form.dataset.from);
  });
  document.addEventListener("htmx:sendError", (event) => { const form = posted(event); if (form) say(form, "Not saved: the server does not answer. What you typed is kept: press again."); });
  document.addEventListener("htmx:timeout", (event) => { const form = posted(event); if (form) say(form, "Not saved, as far as is known: no answer in time. Press again; it is done once."); });
  document.addEventListener("htmx:responseError", (event) => {
    const form = posted(event);
    const { status } = event.detail.xhr;
    if (!form) return askAgain(event, status);
    say(form, FAILED[status] || "Not saved: something broke. What you typed is kept: press again.");
    if (status === 400) renewed();
  });

  // Beams that are busy elsewhere are asked for again.
  const LATER_MS = 700;
  const askAgain = (event, status) => {
    if (status === 503) setTimeout(() => event.detail.elt.isConnected && htmx.trigger(event.detail.elt, "submit"), LATER_MS);
  };
  document.addEventListener("error", (event) => {
    const picture = event.target;
    const address = picture.getAttribute?.("src") || picture.getAttribute?.("href");
    const tries = Number(picture.dataset?.tries || 0);
    if (!address?.startsWith("/bench/") || tries > 8) return;
    picture.dataset.tries = tries + 1;
    setTimeout(() => picture.setAttribute(picture.hasAttribute("src") ? "src" : "href", address), LATER_MS);
  }, true);

  // What is typed but not recorded survives leaving the page, and goes only when the server has said that it is saved.
  const draftKey = (field, path = location.pathname) => `draft ${path} ${field.name}`;
  const kept = (field) => field.matches("#work input.entry[name], #work textarea[name]") && field.type !== "date";
  const keep = (field) => { if (kept(field)) sessionStorage.setItem(draftKey(field), field.value); };
  const forget = (form, path) => form.querySelectorAll("[name]").forEach((field) => sessionStorage.removeItem(draftKey(field, path)));
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
    const box = event.target.closest("[id^=work-]");
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

  const settle = () => { sendInPlace(); showLamps(); restore(); showLooked(); };
  document.addEventListener("htmx:afterSettle", (event) => { showLooked(); if (event.target.id === "page" || event.target.querySelector?.("#work")) settle(); });
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", settle); else settle();
})();
