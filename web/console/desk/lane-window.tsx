import "./desk.css";

import { useEffect } from "react";
import { useParams } from "react-router";

import { usePageTitle } from "../kit/page-title";
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
  usePageTitle(chat ? name : "");
  if (!loaded) return null;
  if (!chat) {
    return (
      <main className="trouble">
        <p>This chat is no longer on your Desk. Its transcript is kept.</p>
      </main>
    );
  }
  return (
    <main className="lane-window">
      <Lane chat={chat} number={store.lanes.numberOf(id)} focused single />
    </main>
  );
}
