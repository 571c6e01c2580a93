// The page in which what a visitor sees is drawn anew: a frame of its own, with a policy of its
// own, since a site's styles are nothing that the console may have. The replay stands in another
// frame within it, in which nothing runs.

import { Replayer } from "rrweb";

import type { FromAlong, ToAlong } from "./messages";

type eventWithTime = Exclude<Parameters<Replayer["addEvent"]>[0], string>;

const root = document.getElementById("root") as HTMLElement;
const cover = document.getElementById("cover") as HTMLElement;
const scrollEvery = 150;

let replayer: Replayer | undefined;
let size = { width: 0, height: 0 };
let scale = 1;
let left = 0;
let live = true;
let scrolledAt = 0;

function say(message: FromAlong): void {
  parent.postMessage(message, location.origin);
}

/** Lets the page fill what room there is. */
function fit(): void {
  const wrapper = root.querySelector<HTMLElement>(".replayer-wrapper");
  if (!wrapper || !size.width || !size.height) return;
  scale = Math.min(root.clientWidth / size.width, root.clientHeight / size.height);
  wrapper.style.transform = `scale(${scale})`;
  left = Math.max(0, (root.clientWidth - size.width * scale) / 2);
  wrapper.style.left = `${left}px`;
}

function begin(events: eventWithTime[], isLive: boolean): Replayer {
  replayer?.destroy();
  root.replaceChildren();
  live = isLive;
  replayer = new Replayer(events, {
    root,
    liveMode: isLive,
    mouseTail: false,
    skipInactive: !isLive,
    showWarning: false,
    UNSAFE_replayCanvas: false,
  });
  replayer.on("resize", (to) => {
    size = to as typeof size;
    fit();
  });
  return replayer;
}

function take(message: ToAlong): void {
  switch (message.kind) {
    case "events": {
      const events = message.events as eventWithTime[];
      const [first] = events;
      if (!first) return;
      // A meta event begins a page: whatever stood there before has gone.
      const before = replayer;
      if (first.type === 4 && live) replayer = undefined;
      const drawing = replayer ?? begin([], true);
      if (drawing !== before) drawing.startLive(first.timestamp);
      for (const event of events) drawing.addEvent(event);
      return;
    }
    case "replay": {
      begin(message.events as eventWithTime[], false);
      const { totalTime } = replayer?.getMetaData() ?? { totalTime: 0 };
      say({ kind: "length", milliseconds: totalTime });
      replayer?.pause(0);
      replayer?.on("finish", () => say({ kind: "finished" }));
      return;
    }
    case "play":
      replayer?.play(message.at);
      return;
    case "pause":
      say({ kind: "at", milliseconds: replayer?.getCurrentTime() ?? 0 });
      replayer?.pause();
      return;
    case "to":
      replayer?.pause(message.at);
  }
}

addEventListener("message", (event) => {
  if (event.source !== parent || event.origin !== location.origin) return;
  try {
    take(event.data as ToAlong);
  } catch {
    say({ kind: "broken" }); // the whole page is asked for anew
    replayer = undefined;
  }
});
addEventListener("resize", fit);
cover.addEventListener("click", (event) => {
  const x = (event.clientX - left) / scale;
  const y = event.clientY / scale;
  if (live && x >= 0 && x < size.width && y < size.height) say({ kind: "point", x, y });
});
cover.addEventListener(
  "wheel",
  (event) => {
    const now = performance.now();
    if (!live || !replayer || now - scrolledAt < scrollEvery) return;
    scrolledAt = now;
    const top = replayer.iframe.contentWindow?.scrollY ?? 0;
    say({ kind: "scroll", y: Math.max(0, top + event.deltaY) });
  },
  { passive: true },
);
setInterval(() => {
  if (!live && replayer) say({ kind: "at", milliseconds: replayer.getCurrentTime() });
}, 500);
say({ kind: "ready" });
