import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Confirm } from "../kit/confirm";
import { useChat, useChats, useDeskStore } from "./provider";

/** Asks before somebody takes more chats than they should hold. */
export default function TooMany() {
  const store = useDeskStore();
  const tooMany = useChats((s) => s.tooMany);
  const chat = useChat(tooMany?.chatId ?? "");
  if (!tooMany) return null;
  const name = chat?.name || t`this visitor`;
  return (
    <Confirm
      title={t`Take one more than your limit?`}
      yes={t`Take it anyway`}
      no={t`Leave it to a colleague`}
      onYes={() => void store.acts.take(tooMany.chatId, true)}
      onNo={() => store.acts.leaveIt()}
    >
      {chat?.departmentName
        ? plural(tooMany.capacity, {
            one: `Your limit in ${chat.departmentName} is # chat at once, and you hold ${tooMany.load}.`,
            other: `Your limit in ${chat.departmentName} is # chats at once, and you hold ${tooMany.load}.`,
          })
        : plural(tooMany.capacity, {
            one: `Your limit is # chat at once, and you hold ${tooMany.load}.`,
            other: `Your limit is # chats at once, and you hold ${tooMany.load}.`,
          })}{" "}
      <Trans>
        Take <bdi>{name}</bdi> anyway?
      </Trans>
    </Confirm>
  );
}
