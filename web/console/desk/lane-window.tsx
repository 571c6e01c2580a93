import "./styles";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect } from "react";
import { useParams } from "react-router";

import { usePageTitle } from "../kit/page-title";
import { Lane } from "./lane";
import { useChats, useDeskStore, useTeam } from "./provider";

/** A single lane in a window of its own; closing the window gives it back to the Desk. */
export default function LaneWindow() {
  const { id = "" } = useParams();
  const store = useDeskStore();
  const chats = useChats((s) => s.chats);
  const loaded = useTeam((s) => s.loaded);
  const chat = chats.get(id);
  const name = chat?.name || t`Visitor`;
  useEffect(() => store.screen.isWindowOf(id), [store, id]);
  useEffect(() => {
    store.screen.lanes.setShown([id]);
    store.screen.use(id);
  }, [store, id, loaded]);
  usePageTitle(chat ? name : "");
  if (!loaded) return null;
  if (!chat) {
    return (
      <main className="trouble">
        <p>
          <Trans>This chat is no longer on your Desk. Its transcript is kept.</Trans>
        </p>
      </main>
    );
  }
  return (
    <main className="lane-window">
      <Lane chat={chat} number={store.screen.lanes.numberOf(id)} focused single />
    </main>
  );
}
