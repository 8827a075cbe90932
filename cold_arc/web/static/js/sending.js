// Every form that saves is sent without leaving the page, so that a failure costs nothing that was
// typed.
import { forget } from "./drafts.js";

const IN_PLACE = {
  "hx-boost": "true",
  "hx-target": "#page",
  "hx-select": "#page",
  "hx-select-oob": "#top-job",
  "hx-swap": "outerHTML show:none",
  "hx-sync": "this:replace",
};
const FAILED = {
  400: "Not saved: this page was too old. It has been renewed: press again.",
  413: "Not saved: that was too large.",
  507: "Not saved: the shop's disk is full. What you typed is kept: make room, then press again.",
  503: "Not saved: the data is busy. What you typed is kept: press again.",
};
const LATER_MS = 700;
const MOST_TRIES = 8;

export const sendInPlace = () =>
  document.querySelectorAll("form[method=post]:not([enctype]):not([hx-boost])").forEach((form) => {
    if (form.closest(".top-links, [hx-boost=true]")) return;
    Object.entries(IN_PLACE).forEach(([name, value]) => form.setAttribute(name, value));
    htmx.process(form);
  });

const posted = ({ detail }) =>
  detail.requestConfig?.verb === "post" && detail.requestConfig.elt.closest("form");

const say = (form, text) => {
  const button = form.querySelector("button:not([type=button])") || form.lastElementChild;
  const notice = form.querySelector(".send-error") || document.createElement("p");
  notice.className = "send-error field-error";
  notice.setAttribute("role", "alert");
  notice.textContent = text;
  button.closest("p, div, form").append(notice);
};

const renew = async () => {
  const answer = await fetch("/token", { cache: "no-store" });
  const token = await answer.text();
  document.querySelectorAll("[name=csrf_token]").forEach((field) => {
    field.value = token;
  });
};

// Beams that are busy elsewhere are asked for again: by a link, by a form, or by a place that is
// filled on its own.
const ASKED_BY = { A: "click", FORM: "submit" };
const askAgain = ({ detail: { elt } }, status) => {
  if (status === 503)
    setTimeout(
      () => elt.isConnected && htmx.trigger(elt, ASKED_BY[elt.tagName] || "again"),
      LATER_MS,
    );
};

document.addEventListener("htmx:beforeRequest", (event) => {
  const form = posted(event);
  if (form) form.dataset.from = location.pathname;
});
document.addEventListener("htmx:afterRequest", (event) => {
  const form = posted(event);
  // shown again, not saved
  const tap = event.detail.requestConfig.triggeringEvent?.submitter?.name === "build";
  if (form && event.detail.successful && !tap) forget(form, form.dataset.from);
});
document.addEventListener("htmx:sendError", (event) => {
  const form = posted(event);
  if (form)
    say(form, "Not saved: the server does not answer. What you typed is kept: press again.");
});
document.addEventListener("htmx:timeout", (event) => {
  const form = posted(event);
  if (form)
    say(form, "Not saved, as far as is known: no answer in time. Press again; it is done once.");
});
document.addEventListener("htmx:responseError", (event) => {
  const form = posted(event);
  const { status } = event.detail.xhr;
  if (!form) {
    askAgain(event, status);
    return;
  }
  say(form, FAILED[status] || "Not saved: something broke. What you typed is kept: press again.");
  if (status === 400) renew();
});
document.addEventListener(
  "error",
  (event) => {
    const picture = event.target;
    const address = picture.getAttribute?.("src") || picture.getAttribute?.("href");
    const tries = Number(picture.dataset?.tries || 0);
    if (!address?.startsWith("/bench/") || tries > MOST_TRIES) return;
    picture.dataset.tries = tries + 1;
    setTimeout(
      () => picture.setAttribute(picture.hasAttribute("src") ? "src" : "href", address),
      LATER_MS,
    );
  },
  true,
);
