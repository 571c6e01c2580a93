import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Fragment, memo, type Ref } from "react";

import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { PaneEdge } from "../kit/pane-edge";
import { Lane } from "./lane";
import {
  useChat,
  useDeskStore,
  useListed,
  useMe,
  idsOf,
  useMyIds,
  usePreferences,
  useTeam,
  useWindows,
} from "./provider";
import { offers, waiting } from "./store/lists";

// What moves lanes comes with the second one.
const EarlierChat = later(() => import("./beside"));
const LaneMover = later(() => import("./lane-mover"));

/** A lane narrower than this, in pixels, is not shown beside others. */
export const narrowestLane = 330;

interface Props {
  /** The chats whose lanes are shown, in their order. */
  shown: string[];
  /** How wide the row is, in pixels. */
  width: number;
  /** Takes the row, to measure it. */
  box: Ref<HTMLDivElement>;
}

/** The lanes beside each other, as wide as I like each to be. */
export function LaneRow({ shown, width, box }: Props) {
  const store = useDeskStore();
  const loaded = useTeam((s) => s.loaded);
  const beside = useWindows((s) => s.beside);
  const numbers = useWindows((s) => s.lanes.numbers);
  const laneShares = usePreferences((s) => s.preferences.laneShares);
  const columns = shown.map((_, i) => laneShares?.[`${shown.length}.${i + 1}`] ?? 100 / shown.length);
  const resize = (i: number, percent: number) => {
    const both = (columns[i] ?? 0) + (columns[i + 1] ?? 0);
    const least = Math.min(both / 2, (narrowestLane / width) * 100 * 0.8);
    const left = Math.min(both - least, Math.max(least, percent));
    const shares = { ...laneShares };
    columns.forEach((share, at) => (shares[`${shown.length}.${at + 1}`] = Math.round(share)));
    shares[`${shown.length}.${i + 1}`] = Math.round(left);
    shares[`${shown.length}.${i + 2}`] = Math.round(both - left);
    store.preferring.prefer({ laneShares: shares });
  };
  return (
    <>
      <div
        className="lanes"
        ref={box}
        style={{
          gridTemplateColumns:
            shown.length > 0
              ? columns.map((c) => `minmax(0, ${c}fr)`).join(" 0 ") + (beside ? " minmax(260px, 40fr)" : "")
              : "minmax(0, 1fr)",
        }}
      >
        {shown.map((id, i) => (
          <Fragment key={id}>
            {i > 0 ? (
              <PaneEdge
                label={t`Width of lane ${numbers[shown[i - 1] ?? ""] ?? 0}`}
                value={columns[i - 1] ?? 50}
                min={10}
                max={90}
                scale={width / 100}
                onChange={(value) => resize(i - 1, value)}
              />
            ) : null}
            <ChatLane id={id} />
          </Fragment>
        ))}
        {shown.length === 0 && loaded ? <EmptyLanes /> : null}
        <Lazily>{beside ? <EarlierChat beside={beside} /> : null}</Lazily>
      </div>
      {shown.length > 1 ? (
        <Lazily>
          <LaneMover shown={shown} />
        </Lazily>
      ) : null}
    </>
  );
}

/** The lane of a chat, as long as it is on the Desk. */
const ChatLane = memo(function ChatLane({ id }: { id: string }) {
  const chat = useChat(id);
  const number = useWindows((s) => s.lanes.numbers[id] ?? 0);
  const focused = useWindows((s) => s.focused === id);
  return chat ? <Lane chat={chat} number={number} focused={focused} /> : null;
});

/** What stands where lanes will be. */
function EmptyLanes() {
  const me = useMe();
  const waits = useListed((chats, me) => idsOf([...offers(chats, me), ...waiting(chats, me)])).length > 0;
  const tucked = useMyIds().length > 0;
  return (
    <div className="empty-lanes">
      <h2>
        <Trans>Your chats open here, side by side</Trans>
      </h2>
      <p>
        {tucked
          ? t`You have chats on the left without a lane. Choose one to bring it back.`
          : waits
            ? t`Somebody is waiting on the left. Take the chat and it gets a lane with its own number.`
            : me.available
              ? t`Nobody is waiting. When a visitor writes, you hear a sound and they appear on the left.`
              : t`You are away, so nothing rings. Press Away at the top when you are ready to answer.`}
      </p>
    </div>
  );
}
