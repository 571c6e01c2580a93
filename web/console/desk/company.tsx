import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { sayTrouble } from "../kit/say";
import { useDeskStore, useMe, useTeam } from "./provider";

/** Says who else speaks in the chat, so that nobody wonders who owns it. */
export function WithWhom({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const operators = useTeam((s) => s.operators);
  const departments = useTeam((s) => s.departments);
  const me = useMe();
  const guests = (chat.guests ?? [])
    .map((id) => operators.find((o) => o.id === id))
    .filter((o) => o !== undefined);
  const owner = chat.ownerId === me.id;
  const asked = departments.find((d) => d.id === chat.callDepartmentId);
  if (guests.length === 0 && !asked) return null;
  return (
    <div className="with-whom">
      {guests.length > 0 ? (
        <>
          <Icons.Person />
          <span>
            {owner ? t`You own this chat.` : t`${chat.ownerName ?? t`A colleague`} owns this chat.`}{" "}
            <Trans>Also here:</Trans>
          </span>
          {guests.map((o) => (
            <span key={o.id} className="guest">
              {o.id === me.id ? t`you` : o.name}
              {owner ? (
                <button
                  className="link"
                  onClick={() => store.acts.removeColleague(chat.id, o.id).catch(sayTrouble)}
                >
                  <Trans>remove</Trans>
                </button>
              ) : null}
            </span>
          ))}
        </>
      ) : null}
      {asked ? (
        <span>
          <Icons.Ring /> <Trans>Asking {asked.name} for help.</Trans>
          {owner ? (
            <button className="link" onClick={() => store.acts.endCall(chat.id).catch(sayTrouble)}>
              <Trans>stop asking</Trans>
            </button>
          ) : null}
        </span>
      ) : null}
    </div>
  );
}

/** What a colleague can do who was added. */
export function GuestFoot({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const me = useMe();
  return (
    <footer className="lane-foot">
      {me.role === "operator" ? null : (
        <Button onClick={() => store.acts.takeOver(chat.id).catch(sayTrouble)} startIcon={<Icons.Passing />}>
          <Trans>Take over</Trans>
        </Button>
      )}
      <Button
        onClick={() => store.acts.removeColleague(chat.id, me.id).catch(sayTrouble)}
        startIcon={<Icons.Door />}
      >
        <Trans>Leave the chat</Trans>
      </Button>
    </footer>
  );
}
