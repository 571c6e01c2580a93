import "./desk.css";

import { useEffect, useLayoutEffect, useRef, useState } from "react";

import { Lane } from "./lane";
import { chooseLanes } from "./lanes";
import { Line } from "./line";
import { useDesk, useDeskStore } from "./provider";

const narrowestLane = 330;

/** The Desk: the line, and lanes beside each other for as many chats as there is room. */
export function DeskPage() {
  const store = useDeskStore();
  const { focused, chats, loaded } = useDesk();
  const box = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState(2);
  const [used, setUsed] = useState<string[]>([]);
  const [shownBefore, setShownBefore] = useState<string[]>([]);

  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const measure = () => setRoom(Math.max(1, Math.min(4, Math.floor(element.clientWidth / narrowestLane))));
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const order = focused && used[0] !== focused ? [focused, ...used.filter((id) => id !== focused)] : used;
  const all = store.lanes.list().filter((id) => chats.has(id));
  const shown = chooseLanes(all, shownBefore, order, room);
  const shownKey = shown.join();
  if (order !== used) setUsed(order);
  if (shownKey !== shownBefore.join()) setShownBefore(shown);
  useEffect(() => {
    const ids = shownKey ? shownKey.split(",") : [];
    store.lanes.setShown(ids);
    return () => store.lanes.setShown([]);
  }, [store, shownKey]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!event.altKey || event.ctrlKey || event.metaKey) return;
      if (event.code === "KeyN") {
        event.preventDefault();
        const next = store.waiting().find((c) => !c.offeredTo);
        if (next) void store.take(next.id);
      }
      if (event.code === "KeyY") {
        event.preventDefault();
        const offer = store.offers()[0];
        if (offer) void store.take(offer.id);
      }
      const digit = /^Digit([1-9])$/.exec(event.code)?.[1];
      const lane = digit
        ? store.lanes.list().find((id) => store.lanes.numberOf(id) === Number(digit))
        : undefined;
      if (lane) {
        event.preventDefault();
        store.focus(lane);
        requestAnimationFrame(() => document.getElementById(`write-${lane}`)?.focus());
      }
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [store]);

  return (
    <main className="desk">
      <h1 className="sr-only">Desk</h1>
      <Line shown={shown} />
      <div
        className="lanes"
        ref={box}
        style={{
          gridTemplateColumns:
            shown.length > 0 ? `repeat(${shown.length}, minmax(0, 820px))` : "minmax(0, 1fr)",
        }}
      >
        {shown.map((id) => {
          const chat = chats.get(id);
          return chat ? (
            <Lane key={id} chat={chat} number={store.lanes.numberOf(id)} focused={focused === id} />
          ) : null;
        })}
        {shown.length === 0 && loaded ? <EmptyLanes /> : null}
      </div>
    </main>
  );
}

function EmptyLanes() {
  const { me } = useDesk();
  const store = useDeskStore();
  const waits = store.waiting().length > 0;
  return (
    <div className="empty-lanes">
      <h2>Your chats open here, side by side</h2>
      <p>
        {waits
          ? "Somebody is waiting on the left. Take the chat, and it gets a lane with a number of its own."
          : me.available
            ? "Nobody is waiting. When a visitor writes, you hear it, and they appear on the left."
            : "You are away: nothing rings. Become available at the top when you are ready to answer."}
      </p>
    </div>
  );
}
