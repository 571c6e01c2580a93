import "./styles";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { useShallow } from "zustand/react/shallow";

import { useAct } from "../keyboard/keyboard";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { usePageTitle } from "../kit/page-title";
import { PaneEdge } from "../kit/pane-edge";
import { aboutQuery } from "./about-query";
import { useDeskActs, useLaneNumbers } from "./desk-keys";
import { LaneRow, narrowestLane } from "./lane-row";
import { Line } from "./line";
import { useChat, useChats, useDeskStore, usePreferences, useTeam, useWindows } from "./provider";
import { chooseLanes, showable } from "./store/lanes";

const About = later(() => import("./about").then((m) => ({ default: m.About })));
const ChatByLink = later(() => import("./chat-by-link"));

const lineUsual = 272;
const aboutUsual = 288;
/** Below this width what is known lies over the lanes instead of beside them. */
const roomForAbout = 1180;

/** The Desk: the line, lanes beside each other for as many chats as there is room, and About. */
export function DeskPage() {
  usePageTitle(t`Desk`);
  const store = useDeskStore();
  const focused = useWindows((s) => s.focused);
  const preferences = usePreferences((s) => s.preferences);
  const alone = useWindows((s) => s.alone);
  const beside = useWindows((s) => s.beside);
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(2 * narrowestLane);
  const [used, setUsed] = useState<string[]>([]);
  const [shownBefore, setShownBefore] = useState<string[]>([]);
  const wide = useWide(roomForAbout);
  const [over, setOver] = useState(false);
  const aboutOpen = wide ? (preferences.aboutOpen ?? true) : over;
  const lineWidth = preferences.lineWidth ?? lineUsual;
  const aboutWidth = preferences.aboutWidth ?? aboutUsual;

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => setWidth(element.clientWidth);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const room = Math.max(1, Math.min(4, Math.floor(width / narrowestLane)) - (beside ? 1 : 0));
  const order = focused && used[0] !== focused ? [focused, ...used.filter((id) => id !== focused)] : used;
  const lanes = useWindows((s) => s.lanes);
  const all = useChats(useShallow((s) => showable(lanes).filter((id) => s.chats.has(id))));
  const shown = alone && all.includes(alone) ? [alone] : chooseLanes(all, shownBefore, order, room);
  const shownKey = shown.join();
  // The same list as long as the same lanes are shown, for those who compare.
  const shownNow = useMemo(() => (shownKey ? shownKey.split(",") : []), [shownKey]);
  if (order !== used) setUsed(order);
  if (shownKey !== shownBefore.join()) setShownBefore(shown);
  useEffect(() => {
    const ids = shownKey ? shownKey.split(",") : [];
    store.screen.lanes.setShown(ids);
    store.screen.lookAgain();
    return () => store.screen.lanes.setShown([]);
  }, [store, shownKey]);

  // What is known of a visitor is there before their lane is turned to.
  const queries = useQueryClient();
  useEffect(() => {
    if (!aboutOpen) return;
    for (const id of shownKey ? shownKey.split(",") : []) {
      const chat = store.stores.chats.getState().chats.get(id);
      if (chat) void queries.prefetchQuery(aboutQuery(chat));
    }
  }, [store, queries, aboutOpen, shownKey]);

  const go = (id: string | undefined) => {
    if (id) store.screen.writeTo(id);
  };
  const stepTo = (step: number) => {
    go(all[(all.indexOf(focused) + step + all.length) % Math.max(1, all.length)]);
  };
  const move = (step: number) => {
    const list = store.screen.lanes.showable();
    const to = list[list.indexOf(focused) + step];
    if (to) store.screen.lanes.move(focused, to);
  };
  const toggleAbout = () => (wide ? store.preferring.prefer({ aboutOpen: !aboutOpen }) : setOver(!over));
  useDeskActs();
  useAct("next-lane", () => stepTo(1), all.length > 1);
  useAct("previous-lane", () => stepTo(-1), all.length > 1);
  useAct("lane-right", () => move(1), all.length > 1);
  useAct("lane-left", () => move(-1), all.length > 1);
  useAct("about", toggleAbout, focused !== "");
  useLaneNumbers(go);

  const inUse = useChats((s) => s.chats.has(focused));
  const loaded = useTeam((s) => s.loaded);
  const named = useSearchParams()[0].get("chat");
  return (
    <main
      className="desk"
      style={{
        gridTemplateColumns: `${lineWidth}px 0 minmax(0, 1fr)${aboutOpen && wide && inUse ? ` 0 ${aboutWidth}px` : ""}`,
      }}
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => e.preventDefault()}
    >
      <h1 className="sr-only">
        <Trans>Desk</Trans>
      </h1>
      <Line shown={shownNow} />
      <Lazily>{loaded && named ? <ChatByLink id={named} /> : null}</Lazily>
      <PaneEdge
        label={t`Width of the line`}
        value={lineWidth}
        min={200}
        max={520}
        onChange={(value) => store.preferring.prefer({ lineWidth: value })}
      />
      <LaneRow shown={shownNow} width={width} box={box} />
      {aboutOpen && inUse ? (
        <>
          {wide ? (
            <PaneEdge
              label={t`Width of About`}
              value={aboutWidth}
              min={220}
              max={560}
              reversed
              onChange={(value) => store.preferring.prefer({ aboutWidth: value })}
            />
          ) : null}
          <div className={wide ? "about-place" : "about-place over"}>
            <AboutLane key={focused} id={focused} onClose={toggleAbout} />
          </div>
        </>
      ) : null}
    </main>
  );
}

function useWide(pixels: number): boolean {
  const [wide, setWide] = useState(() => innerWidth >= pixels);
  useEffect(() => {
    const onResize = () => setWide(innerWidth >= pixels);
    addEventListener("resize", onResize);
    return () => removeEventListener("resize", onResize);
  }, [pixels]);
  return wide;
}

/** What is known of the visitor of the lane in use. */
function AboutLane({ id, onClose }: { id: string; onClose: () => void }) {
  const chat = useChat(id);
  const number = useWindows((s) => s.lanes.numbers[id] ?? 0);
  return <Lazily>{chat ? <About chat={chat} number={number} onClose={onClose} /> : null}</Lazily>;
}
