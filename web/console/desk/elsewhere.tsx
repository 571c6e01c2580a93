import { firstName } from "../../shared/format";
import { useDeskPart, useDeskStore } from "./provider";

/** Says where the eye is, in words, what a visitor wrote whose lane is not on screen. */
export function Elsewhere({ chatId }: { chatId: string }) {
  const store = useDeskStore();
  const chats = useDeskPart((s) => s.chats);
  const unseen = [...chats.values()]
    .filter((c) => c.id !== chatId && c.unseen > 0 && store.isMine(c) && !store.lanes.isShown(c.id))
    .sort((a, b) => Date.parse(a.turnSince) - Date.parse(b.turnSince))[0];
  if (!unseen) return <span className="elsewhere" role="status" />;
  const number = store.lanes.numberOf(unseen.id);
  return (
    <span className="elsewhere" role="status">
      <button type="button" onClick={() => store.writeTo(unseen.id)}>
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
