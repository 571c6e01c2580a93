import { Confirm } from "../kit/confirm";
import { useChat, useChats, useDeskStore } from "./provider";

/** Asks before somebody takes more chats than they should hold. */
export default function TooMany() {
  const store = useDeskStore();
  const tooMany = useChats((s) => s.tooMany);
  const chat = useChat(tooMany?.chatId ?? "");
  if (!tooMany) return null;
  const name = chat?.name || "this visitor";
  return (
    <Confirm
      title="Take one more than your limit?"
      yes="Take it anyway"
      no="Leave it to a colleague"
      onYes={() => void store.acts.take(tooMany.chatId, true)}
      onNo={() => store.acts.leaveIt()}
    >
      {chat?.departmentName ? `Your limit in ${chat.departmentName} is` : "Your limit is"}{" "}
      {tooMany.capacity === 1 ? "1 chat" : `${tooMany.capacity} chats`} at once, and you hold {tooMany.load}.
      Take <bdi>{name}</bdi> anyway?
    </Confirm>
  );
}
