// A live camera at Aim: pictures of it go to the shop one at a time; the line on the Wall stands
// where the cut-off is.
const QUALITY = 0.8;
const MOST_ACROSS = 1280;
let running = null;

const part = (name) => running.box.querySelector(`[data-live-${name}]`);
const stop = () => {
  if (!running) return;
  running.stream?.getTracks().forEach((track) => track.stop());
  part("stop").hidden = true;
  running.box.querySelector(".live-screws").hidden = true;
  running = null;
};

const simulatedPicture = async ({ box, turns }) => {
  const query = new URLSearchParams({ lamp: box.dataset.lamp, ...turns });
  const answer = await fetch(`${box.dataset.simulated}?${query}`, { cache: "no-store" });
  if (!answer.ok) throw new Error(answer.status);
  const blob = await answer.blob();
  const picture = box.querySelector("img.live-picture");
  URL.revokeObjectURL(picture.src);
  picture.src = URL.createObjectURL(blob);
  picture.hidden = false;
  return blob;
};
const ownPicture = async ({ box }) => {
  const video = box.querySelector("video");
  const scale = Math.min(1, MOST_ACROSS / video.videoWidth);
  const canvas = Object.assign(document.createElement("canvas"), {
    width: video.videoWidth * scale,
    height: video.videoHeight * scale,
  });
  canvas.getContext("2d").drawImage(video, 0, 0, canvas.width, canvas.height);
  return new Promise((done) => {
    canvas.toBlob(done, "image/jpeg", QUALITY);
  });
};

const show = (measured) => {
  const { box } = running;
  part("words").textContent = measured.why || measured.words.join(" ");
  part("words").className = measured.why ? "quiet" : "";
  part("stands").textContent = measured.why ? "–" : measured.stands.replace("-", "−");
  part("stands").className = measured.why ? "" : `level-${measured.level}`;
  part("keep").disabled = Boolean(measured.why);
  if (measured.why) return;
  const reach = Number(box.querySelector("[data-wall]").dataset.reach);
  const line = part("line");
  const x = Number(line.dataset.lampX) + (measured.right || 0) * reach;
  const y = Number(line.dataset.lampY) - measured.up * reach;
  line.setAttribute("transform", `translate(${x.toFixed(2)} ${y.toFixed(2)})`);
  box.querySelector("[name=stands]").value = measured.stands;
  box.querySelector("[name=sideways]").value = measured.sideways;
};

const turn = async () => {
  const mine = running;
  if (!mine?.box.isConnected) {
    stop();
    return;
  }
  const began = performance.now();
  try {
    const form = new FormData();
    form.append("frame", await (mine.next || mine.picture(mine)), "frame.jpg");
    mine.next = mine.picture(mine); // the next is taken while this one is measured
    mine.next.catch(() => {});
    form.append("lamp", mine.box.dataset.lamp);
    form.append("csrf_token", document.querySelector("[name=csrf_token]").value);
    const answer = await fetch(mine.box.dataset.frame, { method: "POST", body: form });
    const measured = answer.ok ? await answer.json() : { why: "No answer: trying again." };
    if (running !== mine) return;
    show(measured);
    part("rate").textContent = `${(1000 / (performance.now() - began)).toFixed(1)} a second`;
  } catch {
    if (running !== mine) return;
    mine.next = null;
    show({ why: "No answer: trying again." });
    await new Promise((done) => {
      setTimeout(done, 500);
    });
  }
  setTimeout(turn, 0);
};

const start = async (box, source) => {
  stop();
  box.querySelector("[data-live-refused]").hidden = true;
  running = {
    box,
    turns: { height: 0, side: 0 },
    picture: source === "own" ? ownPicture : simulatedPicture,
  };
  if (source === "own") {
    try {
      const video = box.querySelector("video");
      running.stream = await navigator.mediaDevices.getUserMedia({
        video: { facingMode: "environment", width: { ideal: 1920 } },
      });
      video.srcObject = running.stream;
      video.hidden = false;
      await video.play();
    } catch {
      part("refused").hidden = false;
      running = null;
      return;
    }
  } else box.querySelector(".live-screws").hidden = false;
  box.querySelector("[name=camera]").value = source;
  part("stop").hidden = false;
  turn();
};

document.addEventListener("click", (event) => {
  const box = event.target.closest?.("[data-follow]");
  if (!box) return;
  const { liveStart, screw } = event.target.dataset;
  if (liveStart) start(box, liveStart);
  if ("liveStop" in event.target.dataset) stop();
  if (screw && running) {
    const [name, by] = screw.split(",");
    running.turns[name] += Number(by);
  }
});
