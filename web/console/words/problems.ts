import { t } from "@lingui/core/macro";

import type { ProblemText } from "../../shared/problem";
import type { Problem } from "../../shared/types";
import { visitorProblem } from "../../shared/visitor-problems";
import { fieldWords } from "./fields";
import { sentenceWords } from "./sentences";

/** Says what the server could not do and what to do now, by its code; nothing for a code that is new. */
export function problemWords(problem: Problem): ProblemText | undefined {
  switch (problem.code) {
    case "begun":
      return { title: t`Stoop is set up already`, detail: t`Log in, or ask an admin to invite you.` };
    case "no-translator":
      return {
        title: t`There is no translator`,
        detail: t`Whoever runs this server can connect one: see the guide, Translation.`,
      };
    case "unknown-language":
      return {
        title: t`The translator does not know this language`,
        detail: t`Choose one of those that are offered.`,
      };
    case "translator-away":
      return {
        title: t`The translator does not answer`,
        detail: t`Your words are still in the composer. Try again, or send them as they are.`,
      };
    case "same-language":
      return {
        title: t`Choose two different languages`,
        detail: t`Words are translated between the visitor's language and yours.`,
      };
    case "not-translating":
      return {
        title: t`The translation was changed meanwhile`,
        detail: t`A colleague stopped it or chose another language. Look at the lane, then send again.`,
      };
    case "no-address":
      return {
        title: t`This is not the address of a page`,
        detail: t`Enter the whole address, like https://www.example.com/fares.`,
      };
    case "same-way":
      return {
        title: t`The chat cannot go on there`,
        detail: t`It is on that way already, or there is no such way.`,
      };
    case "asked-often":
      return { title: t`This was asked too often in this chat`, detail: t`Go on where you are.` };
    case "stopped":
      return {
        title: t`They want no more text messages`,
        detail: t`They have sent STOP. Until they send START, write to them by email, or wait until they are on the site.`,
      };
    case "no-files-there":
      return {
        title: t`Text messages carry no files`,
        detail: t`Send a link, or ask them to go on by email or on the site.`,
      };
    case "not-on-site-now":
      return {
        title: t`They are not on the site`,
        detail: t`They write by text message or email. Ask them to go on on the site first.`,
      };
    case "too-many-parts":
      return {
        title: t`This is too long for a text message`,
        detail: t`Shorten it, or send it in two.`,
      };
    case "no-way":
      return {
        title: t`This cannot be offered here`,
        detail: t`No line of this kind belongs to the chat's widget. An admin can set one up under Setup, Text and email.`,
      };
    case "no-email-known":
      return {
        title: t`They are not on the site, and no email of theirs is known`,
        detail: t`Ask for it, then note it in the chat.`,
      };
    case "no-number-agreed":
      return {
        title: t`They are not on the site, and have not agreed to text messages`,
        detail: t`Only who has written from their number, or has agreed on the site, is sent a text message. Ask them by email.`,
      };
    case "looks-along":
      return {
        title: t`A colleague looks along already`,
        detail: t`One person sees the visitor's page at a time.`,
      };
    case "ticket-merged":
      return {
        title: t`This ticket goes on in another one`,
        detail: t`Open that one; what you wrote is kept.`,
      };
    case "no-telephone":
      return {
        title: t`No telephone system is connected`,
        detail: t`Call the number by yourself, then put down how it went.`,
      };
    case "telephone-away":
      return {
        title: t`The telephone system does not answer`,
        detail: t`Call the number by yourself, then put down how it went.`,
      };
    case "keys-most":
      return { title: t`There are 100 keys already`, detail: t`Revoke one that nobody uses.` };
    case "ticket-itself":
      return { title: t`This is the same ticket`, detail: t`Choose another one to merge it into.` };
    case "ticket-no-address":
      return {
        title: t`The customer has no email address here`,
        detail: t`Add one on the right, or write a note.`,
      };
    case "too-many":
      return { title: t`These are too many at once`, detail: t`Choose up to 200.` };
    case "webhooks-most":
      return { title: t`There are 50 webhooks already`, detail: t`Delete one that nobody needs.` };
    case "no-flow":
      return {
        title: t`This widget has no helper`,
        detail: t`An admin can choose a flow for it under Setup.`,
      };
    case "flow-wrong":
      return {
        title: t`The flow cannot go live yet`,
        detail: t`Look at what the check says, and mend it.`,
      };
    case "flow-too-large":
      return {
        title: t`The flow has too many steps`,
        detail: t`A flow can have up to 100 steps. Split it in two.`,
      };
    case "flows-most":
      return { title: t`There are 100 flows already`, detail: t`Delete one that nobody uses.` };
    case "code-needed":
      return {
        title: t`A code is needed too`,
        detail: t`Enter the code of your authenticator app, or one of your recovery codes.`,
      };
    case "bad-code":
      return {
        title: t`This code is not right`,
        detail: t`Codes change every 30 seconds and work once. Check your device's clock, then enter the newest one.`,
      };
    case "factor-on":
      return { title: t`Two-factor is on already`, detail: t`Switch it off first to use another device.` };
    case "factor-gone":
      return { title: t`This was begun anew elsewhere`, detail: t`Begin again.` };
    case "factor-off":
      return { title: t`Two-factor is not on`, detail: t`Switch it on first.` };
    case "invitation-over":
      return {
        title: t`This invitation cannot be used`,
        detail: t`It was used already, withdrawn, or is older than a week. Ask for another one.`,
      };
    case "joined":
      return { title: t`They have joined already`, detail: t`They can log in with their password.` };
    case "uninvited":
      return {
        title: t`Visitors of this site are not invited`,
        detail: t`An admin can allow it in Setup, under Widgets.`,
      };
    case "too-many-checks":
      return { title: t`Several pages are being looked at`, detail: t`Try again in a moment.` };
    case "chat-open":
      return { title: t`This chat is not over`, detail: t`Wait until it has ended.` };
    case "nothing-to-draw":
      return { title: t`There is nothing to draw`, detail: t`No answered chat fits this search.` };
    case "too-many-to-draw":
      return { title: t`These are too many chats`, detail: t`Choose a shorter period first.` };
    case "person-in-chat":
      return {
        title: t`One of their chats is not over`,
        detail: t`End it first. Then they can be forgotten.`,
      };
    case "person-here":
      return {
        title: t`They are on the site right now`,
        detail: t`They would be known again at once. Try again once they have left.`,
      };
    case "seen-to":
      return { title: t`A colleague is already on it`, detail: t`The Floor says who.` };
    case "exports-under-way":
      return {
        title: t`Three exports are under way already`,
        detail: t`Wait until one is done, or cancel one.`,
      };
    case "no-mail":
      return { title: t`No mail can be sent`, detail: t`An admin must set a mail server first: STOOP_SMTP.` };
    case "shift-there":
      return { title: t`This shift is on the roster already`, detail: t`Nothing was changed.` };
    case "no-such-report":
      return { title: t`This report cannot be sent`, detail: t`Open the report, then choose again.` };
    case "no-such-zone":
      return { title: t`This time zone is not known`, detail: t`Write a zone like Europe/Copenhagen.` };
    case "nothing-to-export":
      return { title: t`There is nothing to export`, detail: t`No chat fits this search.` };
    case "period-backwards":
      return {
        title: t`The period ends before it begins`,
        detail: t`Choose a last day that is not before the first one.`,
      };
    case "period-too-long":
      return { title: t`The period is too long`, detail: t`Choose ten years at most.` };
    case "roster-too-long":
      return {
        title: t`The period is too long`,
        detail: t`Choose a first and a last day, a year apart at most.`,
      };
    case "search-nothing":
      return { title: t`There is no word to look for`, detail: t`Write a word, a name or a number.` };
    case "search-only-without":
      return {
        title: t`The search only says what must not be there`,
        detail: t`Add a word that must be there.`,
      };
    case "search-too-long":
      return { title: t`The search is too long`, detail: t`Search for up to 500 characters.` };
    case "search-too-many":
      return { title: t`The search has too many words`, detail: t`Search for up to 40 words.` };
    case "too-far":
      return { title: t`This day is too far away`, detail: t`Plan a day of the coming year.` };
    case "bad-client-id":
      return { title: t`The message has no usable id`, detail: t`Reload the page and send it again.` };
    case "bad-fields":
      return {
        title: t`Please check what you entered`,
        detail: (problem.fields ?? []).map(({ words }) => fieldWords(words) ?? words).join(" "),
      };
    case "bad-login":
      return { title: t`Email or password is wrong`, detail: t`Check both and try again.` };
    case "bad-request":
      return { title: t`The request could not be read`, detail: t`Reload the page and try again.` };
    case "calling":
      return {
        title: t`The team is already being asked`,
        detail: t`Wait for a response, or stop asking first.`,
      };
    case "changed":
      return {
        title: t`A colleague changed this in the meantime`,
        detail: t`Compare, then keep your version or use theirs. What you typed is kept.`,
      };
    case "chat-taken":
      return { title: t`A colleague was faster`, detail: t`They have the chat now.` };
    case "contact-changed":
      return {
        title: t`A colleague changed this contact in the meantime`,
        detail: t`Their version is shown beside yours. Choose which to keep.`,
      };
    case "handing-on":
      return {
        title: t`This chat is already being handed on`,
        detail: t`Take it back first, or wait until somebody responds.`,
      };
    case "no-outside-system":
      return {
        title: t`No booking system is connected`,
        detail: t`An admin can connect one when Stoop is set up.`,
      };
    case "no-email":
      return {
        title: t`There is no email to look for`,
        detail: t`Ask for it and add it to the contact.`,
      };
    case "no-card":
      return {
        title: t`The booking system does not have this any more`,
        detail: t`Search again.`,
      };
    case "no-such-day":
      return { title: t`This is not a date`, detail: t`Write a date as 2026-11-28.` };
    case "rated-anew":
      return { title: t`The visitor has added to this meanwhile`, detail: t`Read it again, then close it.` };
    case "record-refused":
      return {
        title: t`The booking system did not take this`,
        detail: t`Look at name, email and phone of the contact, then try again.`,
      };
    case "not-inviting":
      return {
        title: t`This visitor cannot be invited now`,
        detail: t`They left, were invited by a colleague a moment ago, or are in a chat.`,
      };
    case "refused":
      return {
        title: t`This visitor said no a moment ago`,
        detail: t`Leave them in peace for ten minutes.`,
      };
    case "dry-run-busy":
      return { title: t`Another dry run is under way`, detail: t`Try again in a moment.` };
    case "too-many-keys":
      return {
        title: t`There are as many keys as there can be`,
        detail: t`Retire one that no site signs with any more.`,
      };
    case "too-many-looks":
      return { title: t`This window looks at too much at once`, detail: t`Reload the page.` };
    case "in-a-chat":
      return {
        title: t`A chat with this person is open`,
        detail: t`Write there, or wait until it has ended.`,
      };
    case "nothing-left":
      return {
        title: t`These are all of this contact's browsers`,
        detail: t`Leave at least one with it.`,
      };
    case "contacts-changed":
      return {
        title: t`A colleague changed one of these contacts in the meantime`,
        detail: t`Nothing of the file was stored. Choose it again to see what it changes now.`,
      };
    case "same-contact":
      return { title: t`This is the same contact`, detail: t`Choose another one to merge with.` };
    case "two-customers":
      return {
        title: t`The site vouches that these are two people`,
        detail: t`They have different ids there. They stay apart.`,
      };
    case "in-use":
      return { title: t`This is still needed`, detail: sentenceWords(problem.detail) ?? problem.detail };
    case "is-message":
      return { title: t`This is a message, not a live chat`, detail: t`Reply to it; it is kept until then.` };
    case "left":
      return { title: t`This visitor has just left`, detail: t`They can be invited when they are back.` };
    case "login-first":
      return { title: t`You are not logged in`, detail: t`Log in to continue. What you typed is kept.` };
    case "many-tags":
      return { title: t`This chat already has 20 tags`, detail: t`Remove one first.` };
    case "needs-outcome":
      return { title: t`This chat needs an outcome`, detail: t`Choose one, then close the lane.` };
    case "no-offer":
      return {
        title: t`This chat is no longer offered to you`,
        detail: t`It went to a colleague or back to the queue.`,
      };
    case "no-such-event":
      return { title: t`That message does not exist`, detail: t`Reload the chat.` };
    case "nobody-else":
      return {
        title: t`Choose one other person or department`,
        detail: t`You cannot hand a chat to yourself, or to two places at once.`,
      };
    case "not-allowed":
      return { title: t`Your role does not allow this`, detail: t`Ask an admin if you need it.` };
    case "not-found":
      return { title: t`Not found`, detail: t`It does not exist, or no longer exists.` };
    case "not-there": {
      const name = problem.names?.[0] ?? t`A colleague`;
      return { title: t`${name} is away`, detail: t`Choose somebody else, or a department.` };
    }
    case "not-yours":
      return { title: t`This chat is not yours`, detail: t`Only its visitor and its operator can do this.` };
    case "offered":
      return {
        title: t`A colleague is being asked right now`,
        detail: t`It returns to the queue if they do not take it.`,
      };
    case "other-site":
      return { title: t`Another site sent this request`, detail: t`Do it from Stoop's own pages.` };
    case "over-capacity":
      return {
        title: t`You have reached your limit of chats`,
        detail: t`Take it anyway, or leave it to a colleague.`,
      };
    case "too-many-logins": {
      const wait = sentenceWords(problem.detail);
      return wait
        ? { title: t`Too many wrong passwords`, detail: wait }
        : { title: t`Too many attempts`, detail: t`Wait a minute, then try again.` };
    }
    case "unfilled": {
      const names = (problem.names ?? []).map((name) => `{${name}}`).join(", ");
      return { title: t`A placeholder has no value`, detail: t`Fill it in or remove it: ${names}.` };
    }
    case "unavailable":
      return {
        title: t`Stoop cannot save this right now`,
        detail: t`What you wrote is kept and will be sent again automatically.`,
      };
    case "unknown-method":
      return {
        title: t`Stoop does not know this request`,
        detail: t`Reload the page: it may be from an older version.`,
      };
    default:
      return visitorProblem(problem);
  }
}
