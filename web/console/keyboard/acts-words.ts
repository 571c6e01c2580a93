import { t } from "@lingui/core/macro";

/** What each act does, as a verb. */
const words: Record<string, string> = {
  "take-next": t`Take the next waiting chat`,
  "take-offer": t`Take the chat that is offered to me`,
  "pass-offer": t`Pass on the offer`,
  "help-team": t`Join a colleague asking for help`,
  "next-lane": t`Go to the next lane`,
  "previous-lane": t`Go to the previous lane`,
  "lane-right": t`Move the lane right`,
  "lane-left": t`Move the lane left`,
  alone: t`Show only this lane, or all lanes`,
  window: t`Open the lane in its own window`,
  "close-lane": t`Close the lane; the chat stays in the line`,
  unread: t`Mark unread, or read`,
  about: t`Show or hide About`,
  "hand-on": t`Hand the chat on`,
  colleague: t`Add a colleague`,
  "ask-team": t`Ask the team for help`,
  "put-back": t`Put the chat back in the queue`,
  ticket: t`Make a ticket from the chat`,
  end: t`End the chat`,
  ban: t`Ban the visitor`,
  note: t`Switch between note and reply`,
  attach: t`Attach files`,
  emoji: t`Insert an emoji`,
  voice: t`Record a voice message`,
  help: t`Show keyboard shortcuts`,
  availability: t`Switch between available and away`,
  talk: t`Open or close the team talk`,
  "lane-number": t`Go to the lane with that number`,
  send: t`Send`,
  "new-line": t`Start a new line`,
  canned: t`List canned responses`,
  insert: t`Insert the highlighted response`,
  leave: t`Hide the suggestions and keep your text`,
  notifications: t`Sounds and notifications`,
  correct: t`Correct your last message (when the field is empty)`,
  palette: t`Find anything: actions, people, chats, articles`,
};

/** Says what an act does. */
export function actWords(id: string): string {
  return words[id] ?? id;
}
