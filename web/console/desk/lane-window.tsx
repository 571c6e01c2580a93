import "./desk.css";

import { useEffect } from "react";
import { useParams } from "react-router";

import { Lane } from "./lane";
import { useDesk, useDeskStore } from "./provider";

/** A single lane in a window of its own; closing the window gives it back to the Desk. */
export default function LaneWindow() {
  const { id = "" } = useParams();
  const store = useDeskStore();
  const { chats, loaded } = useDesk();
  const chat = chats.get(id);
  const name = chat?.name || "Visitor";
  useEffect(() => store.isWindowOf(id), [store, id]);
  useEffect(() => {
    store.lanes.setShown([id]);
    store.use(id);
  }, [store, id, loaded]);
  useEffect(() => {
    if (chat) document.title = `${name} · Stoop`;
  }, [chat, name]);
  if (!loaded) return null;
  if (!chat) {
    return (
      <main className="trouble">
        <p>This chat is not on your Desk any more. Its transcript is kept.</p>
      </main>
    );
  }
  return (
    <main className="lane-window">
      <Lane chat={chat} number={store.lanes.numberOf(id)} focused single />
    </main>
  );
}
