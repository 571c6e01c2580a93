import { firstName } from "../../shared/format";
import type { ChatView, OperatorView } from "../../shared/types";
import { useDeskStore, useListed, useWindows } from "./provider";
import type { LaneBook } from "./store/lanes";
import { isMine } from "./store/lists";

/** Says where the eye is, in words, what a visitor wrote whose lane is not on screen. */
export function Elsewhere({ chatId }: { chatId: string }) {
  const store = useDeskStore();
  const [unseen] = useListed((chats, me) => unseenElsewhere(chats, me, chatId, store.screen.lanes));
  const number = useWindows((s) => (unseen ? (s.lanes.numbers[unseen.id] ?? 0) : 0));
  if (!unseen) return <span className="elsewhere" role="status" />;
  return (
    <span className="elsewhere" role="status">
      <button type="button" onClick={() => store.screen.writeTo(unseen.id)}>
        <span className="plate">{number}</span>
        <span className="cut">
          <bdi>
            <b>{firstName(unseen.name)}</b>
          </bdi>{" "}
          <bdi>{unseen.lastWords}</bdi>
        </span>
      </button>
    </span>
  );
}

/** The chat off screen whose visitor has waited longest for my answer, if there is one. */
function unseenElsewhere(
  chats: ReadonlyMap<string, ChatView>,
  me: OperatorView,
  chatId: string,
  lanes: LaneBook,
): ChatView[] {
  return [...chats.values()]
    .filter((c) => c.id !== chatId && c.unseen > 0 && isMine(c, me) && !lanes.isShown(c.id))
    .sort((a, b) => Date.parse(a.turnSince) - Date.parse(b.turnSince))
    .slice(0, 1);
}
