// What others do at the same car is seen here within two seconds; what is being typed is not
// disturbed by it.
const EVERY_MS = 1000;
const TYPED = "input:not([type=hidden]):not([type=file]), textarea";
let asking = false;

const isTyping = (area) =>
  [...area.querySelectorAll(TYPED)].some(
    (field) => field === document.activeElement || field.value !== field.defaultValue,
  );

const say = (area) => {
  if (area.querySelector(".together-said")) return;
  const notice = document.createElement("p");
  notice.className = "together-said remark";
  notice.setAttribute("role", "status");
  notice.textContent =
    "Somebody did more on this car. It is shown once what you type here is sent or cleared.";
  area.prepend(notice);
};

const look = async () => {
  const area = document.querySelector("[data-together]");
  if (!area || asking || document.hidden) return;
  asking = true;
  try {
    const answer = await fetch(area.dataset.together, { cache: "no-store" });
    const { state } = answer.ok ? await answer.json() : {};
    if (!state || state === area.dataset.state || !area.isConnected) return;
    if (isTyping(area)) say(area);
    else
      await htmx.ajax("GET", location.pathname + location.search, {
        target: "#page",
        select: "#page",
        swap: "outerHTML show:none",
      });
  } catch {
    // The shop's machine does not answer just now; the next look may.
  } finally {
    asking = false;
  }
};
setInterval(look, EVERY_MS);

const two = (number) => String(number).padStart(2, "0");
const shown = (minutes) => {
  const seconds = Math.floor(minutes * 60);
  return `${Math.floor(seconds / 3600)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
};

// Clocks run on from what the shop's machine knew when the page came.
export const startClocks = () =>
  document.querySelectorAll("[data-timer]").forEach((clock) => {
    if (clock.dataset.since) return;
    clock.dataset.since = Date.now();
    clock.textContent = shown(Number(clock.dataset.min));
  });
setInterval(
  () =>
    document.querySelectorAll("[data-timer][data-running]").forEach((clock) => {
      clock.textContent = shown(
        Number(clock.dataset.min) + (Date.now() - Number(clock.dataset.since)) / 60000,
      );
    }),
  EVERY_MS,
);

document.addEventListener("change", (event) => {
  const into = event.target.dataset?.showsName;
  if (into) document.getElementById(into).textContent = event.target.files[0]?.name || "";
});
