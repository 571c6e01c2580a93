// Which chats stand where on the Desk. What is asked of a single chat comes
// first; the lists are made of it.
import type { ChatView, DepartmentView, OperatorView } from "../../../shared/types";

type Chats = ReadonlyMap<string, ChatView>;

/** Reports whether a chat is with me: mine, or one to which a colleague added me. */
export function isMine(chat: ChatView, me: OperatorView): boolean {
  return chat.ownerId === me.id || (chat.phase === "active" && (chat.guests ?? []).includes(me.id));
}

/** Reports whether a chat stands in my line: the server says in whose it does. Leads without a department see all. */
export function inMyLine({ lineOf }: ChatView, me: OperatorView): boolean {
  if (!lineOf) return false;
  if (me.departments.length === 0) return me.role !== "operator";
  return lineOf.some((id) => me.departments.includes(id));
}

/** Reports whether the helper alone answers a chat: it waits for nobody of the team. */
export function withHelper(chat: ChatView): boolean {
  return chat.phase === "waiting" && chat.helper?.on === true && !chat.helper.beside;
}

/** Reports whether a colleague asks one of my departments for help in a chat. */
export function asksMe(chat: ChatView, me: OperatorView): boolean {
  return chat.callDepartmentId !== undefined && me.departments.includes(chat.callDepartmentId);
}

/** Reports whether a chat's words are for me: mine, handed to me, asking me for help, watched, or with the helper in my line. */
export function mayRead(chat: ChatView, me: OperatorView, watched: ReadonlySet<string>): boolean {
  return (
    isMine(chat, me) ||
    chat.handingTo === me.id ||
    asksMe(chat, me) ||
    watched.has(chat.id) ||
    (withHelper(chat) && inMyLine(chat, me))
  );
}

/** Reports whether a chat that is not mine belongs into my line, or is a colleague's whom I lead. */
export function mayStay(chat: ChatView, me: OperatorView, watched: ReadonlySet<string>): boolean {
  if (chat.phase === "ended") return watched.has(chat.id);
  return (
    chat.lineOf !== undefined ||
    chat.handingTo === me.id ||
    chat.callDepartmentId !== undefined ||
    me.role !== "operator"
  );
}

/** Reports whether a chat rings for as long as it waits: mine to take, or where operators pick themselves. */
export function rings(chat: ChatView, me: OperatorView, departments: DepartmentView[]): boolean {
  if (!me.available && chat.handingTo !== me.id) return false;
  if (chat.offeredTo === me.id || chat.handingTo === me.id || chat.callDepartmentId !== undefined)
    return true;
  const picks = departments.find((d) => d.id === chat.departmentId)?.handOut === "pick";
  return chat.phase === "waiting" && !chat.message && !withHelper(chat) && picks && inMyLine(chat, me);
}

/** My chats in the order of their lane numbers, with those just ended. */
export function mine(chats: Chats, me: OperatorView, numbers: Readonly<Record<string, number>>): ChatView[] {
  return [...chats.values()]
    .filter((c) => isMine(c, me))
    .sort((a, b) => (numbers[a.id] ?? 0) - (numbers[b.id] ?? 0));
}

/** What is offered to me, the most urgent first. */
export function offers(chats: Chats, me: OperatorView): ChatView[] {
  return [...chats.values()]
    .filter((c) => c.offeredTo === me.id || c.handingTo === me.id)
    .sort((a, b) => untilOf(a) - untilOf(b));
}

function untilOf(chat: ChatView): number {
  return Date.parse(chat.offeredUntil ?? chat.handingUntil ?? chat.since);
}

/** What waits for my departments, in the order that the server hands them out. */
export function waiting(chats: Chats, me: OperatorView): ChatView[] {
  return [...chats.values()]
    .filter((c) => !c.message && !withHelper(c) && !isMine(c, me) && c.offeredTo !== me.id && inMyLine(c, me))
    .sort(
      (a, b) => Date.parse(a.order) - Date.parse(b.order) || Date.parse(a.arrived) - Date.parse(b.arrived),
    );
}

/** Who waits for a department: the longest first, and then those whom a colleague is handing on to it. */
export function waitingFor(chats: Chats, departmentId: string): ChatView[] {
  return [...chats.values()]
    .filter((c) =>
      c.phase === "waiting"
        ? !c.message && !withHelper(c) && c.departmentId === departmentId
        : c.handingDepartmentId === departmentId,
    )
    .sort(
      (a, b) =>
        Number(a.phase === "active") - Number(b.phase === "active") ||
        Date.parse(a.since) - Date.parse(b.since),
    );
}

/** Messages left to be answered, of my departments that are open. */
export function messages(chats: Chats, me: OperatorView, departments: DepartmentView[]): ChatView[] {
  const open = new Set(departments.filter((d) => d.open).map((d) => d.id));
  return [...chats.values()]
    .filter((c) => c.message && open.has(c.departmentId) && inMyLine(c, me))
    .sort((a, b) => Date.parse(a.arrived) - Date.parse(b.arrived));
}

/** Chats of my departments that the helper alone answers, those that began last first. */
export function helped(chats: Chats, me: OperatorView): ChatView[] {
  return [...chats.values()]
    .filter((c) => withHelper(c) && inMyLine(c, me))
    .sort((a, b) => Date.parse(b.startedAt) - Date.parse(a.startedAt));
}

/** Chats of colleagues who ask my departments for help, the longest first. */
export function calls(chats: Chats, me: OperatorView): ChatView[] {
  return [...chats.values()]
    .filter((c) => asksMe(c, me) && !isMine(c, me))
    .sort((a, b) => Date.parse(a.callSince ?? a.since) - Date.parse(b.callSince ?? b.since));
}

/** Chats that my colleagues hold, for leads. */
export function ofColleagues(chats: Chats, me: OperatorView): ChatView[] {
  return [...chats.values()].filter((c) => c.phase === "active" && !isMine(c, me));
}
