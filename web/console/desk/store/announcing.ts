import { t } from "@lingui/core/macro";
import type { ChatView, EventView } from "../../../shared/types";
import type { Notices } from "../../notices/notices";
import type { Chats } from "./chats";
import { asksMe, rings } from "./lists";
import type { Screen } from "./screen";
import type { Stores } from "./stores";

/** Makes heard what concerns me, and says in words what became of a chat. */
export class Announcing {
  constructor(
    private readonly stores: Stores,
    private readonly chats: Chats,
    private readonly screen: Screen,
    private readonly notices: Notices,
    private readonly say: (words: string) => void,
  ) {}

  /** A chat moved. */
  moved(chat: ChatView, before: ChatView | undefined, events: EventView[]): void {
    const { me } = this.chats;
    const mine = this.chats.isMine(chat);
    const spoken = events.findLast((e) => e.kind === "said" && e.side === "visitor");
    const offered = chat.offeredTo === me.id && before?.offeredTo !== me.id;
    const handed = chat.handingTo === me.id && before?.handingTo !== me.id;
    const assigned =
      mine && !(before && this.chats.isMine(before)) && events.some((e) => e.how === "assigned");
    const { departments } = this.stores.team.getState();
    const arrived = rings(chat, me, departments) && chat.phase === "waiting" && before?.phase !== "waiting";
    const called = asksMe(chat, me) && before?.callDepartmentId === undefined && !mine;
    if (offered || handed || assigned || arrived || called)
      this.notices.arrived(chat, me.available || handed, called);
    else if (spoken && mine) this.notices.spoke(chat, spoken, this.screen.looksAt(chat.id));
    const back = events.find((e) => e.kind === "returned" && chat.ownerId === me.id);
    if (back && back.why !== "taken-back") this.cameBack(chat, before, back);
  }

  /** Says who has a chat now that I had. */
  whoHas(had: ChatView, ownerId: string | undefined, ownerName: string | undefined): void {
    const { me } = this.chats;
    if (had.ownerId !== me.id || !ownerId || ownerId === me.id) return;
    this.say(t`${ownerName ?? t`A colleague`} has the chat with ${had.name || t`the visitor`} now.`);
  }

  private cameBack(chat: ChatView, before: ChatView | undefined, back: EventView): void {
    const name = chat.name || t`The visitor`;
    const who = before?.handingToName ?? t`Nobody`;
    this.say(
      back.why === "declined"
        ? t`${who} could not take ${name}. The chat is yours again.`
        : t`${who} did not answer. ${name} is yours again.`,
    );
  }
}
