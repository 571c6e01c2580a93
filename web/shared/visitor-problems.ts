import { t } from "@lingui/core/macro";

import type { ProblemText } from "./problem";
import type { Problem } from "./types";

/** Says what could not be done and what to do now, of what visitors may meet, by its code; nothing for others. */
export function visitorProblem(problem: Problem): ProblemText | undefined {
  switch (problem.code) {
    case "widget-off":
      return {
        title: t`This chat is not here`,
        detail: t`It was switched off. Look on the site for another way to reach the team.`,
      };
    case "bad-token":
      return { title: t`This conversation cannot be opened`, detail: t`Reload the page.` };
    case "not-on-site":
      return {
        title: t`This page is not on a site of this chat`,
        detail: t`Only pages that carry the chat can be shown. Send it as a link in a message instead.`,
      };
    case "no-page":
      return {
        title: t`This page is not offered any more`,
        detail: t`Somebody ended it, or offered another one.`,
      };
    case "ticket-no-call":
      return {
        title: t`No call is wanted any more`,
        detail: t`The customer called it off, or a colleague reached them.`,
      };
    case "no-calls":
      return { title: t`We cannot call back from here`, detail: t`Write to us instead.` };
    case "ticket-full":
      return {
        title: t`This ticket holds as much as one can`,
        detail: t`Make another one and name this one in it.`,
      };
    case "ticket-often":
      return {
        title: t`There were many answers in a short time`,
        detail: t`Wait a few minutes, then send it again.`,
      };
    case "no-along":
      return { title: t`Looking along has ended`, detail: t`Ask the visitor again.` };
    case "many-parts":
      return { title: t`The page changes too fast to be shown`, detail: t`It is shown less often.` };
    case "large-part":
      return { title: t`This part of the page is too large`, detail: t`Send it in smaller ones.` };
    case "banned":
      return {
        title: t`This chat is not available to you`,
        detail: t`The team has closed it for this browser or network.`,
      };
    case "broken":
      return {
        title: t`Something went wrong on our side`,
        detail: t`Try again. If it keeps happening, tell an admin what time it was.`,
      };
    case "broken-off":
      return { title: t`The file did not arrive completely`, detail: t`Send it again; nothing was kept.` };
    case "busy":
      return { title: t`Many files are arriving right now`, detail: t`Send it again in a moment.` };
    case "chat-ended":
      return {
        title: t`This chat has ended`,
        detail: t`Nothing more can be sent here. Start another chat to continue.`,
      };
    case "closed":
      return {
        title: t`Nobody can answer right now`,
        detail: t`Leave a message and we will reply as soon as somebody is back.`,
      };
    case "empty-file":
      return { title: t`This file is empty`, detail: t`Choose another one.` };
    case "file-too-big": {
      const limit = /\d+/.exec(problem.detail)?.[0] ?? "";
      return {
        title: t`This file is too big`,
        detail: t`The limit is ${limit} MB. Send a smaller one, or a link to it.`,
      };
    }
    case "file-type": {
      const type = /^By its content it is (.*?)\. /.exec(problem.detail)?.[1] ?? "";
      return {
        title: t`This kind of file is not allowed`,
        detail: t`By its content it is ${type}. Send it as a picture or a PDF, or paste its text into the chat.`,
      };
    }
    case "huge-picture":
      return {
        title: t`This picture is too large or too complex`,
        detail: t`Save it again below 50 megapixels, then send it.`,
      };
    case "message-empty":
      return { title: t`There is nothing to send`, detail: t`Write a few words first.` };
    case "message-too-long":
      return { title: t`The message is too long`, detail: t`Shorten it or send it in parts.` };
    case "no-booking":
      return {
        title: t`There is no booking with this number and name`,
        detail: t`Check both; they are in the confirmation that you got.`,
      };
    case "no-rating":
      return { title: t`Choose how it was first`, detail: t`Then add words if you like.` };
    case "not-asked":
      return { title: t`This chat cannot be rated`, detail: t`Nobody asks for it any more.` };
    case "rated-late":
      return {
        title: t`It is too late to rate this chat`,
        detail: t`Write to us instead: start another chat at any time.`,
      };
    case "rated-often":
      return { title: t`You have changed this too often`, detail: t`What you said last is kept.` };
    case "too-many-lookups":
      return {
        title: t`Too many lookups`,
        detail: t`Try again later, or ask us: we will find it.`,
      };
    case "too-many-searches":
      return {
        title: t`Too many searches`,
        detail: t`Wait a moment, or ask us: we will find it.`,
      };
    case "outside-unreachable":
      return {
        title: t`The booking system cannot be reached`,
        detail: t`Everything else works. Try again in a moment.`,
      };
    case "no-files":
      return { title: t`Files cannot be sent here`, detail: t`Describe it in a message instead.` };
    case "not-a-picture":
      return {
        title: t`This file is not the picture it claims to be`,
        detail: t`Open it on your computer. If it shows there, save it again as PNG or JPEG.`,
      };
    case "not-taken":
      return { title: t`Nobody has taken this chat yet`, detail: t`Take it first, then reply.` };
    case "not-that":
      return { title: t`This cannot be changed`, detail: t`It was changed or withdrawn in the meantime.` };
    case "storage-full":
      return {
        title: t`There is no space for files right now`,
        detail: t`The file was not sent; messages still are. An admin has to free some space.`,
      };
    case "too-fast":
      return {
        title: t`Too many messages at once`,
        detail: t`Wait a few seconds. What you wrote is kept and will be sent.`,
      };
    case "too-large":
      return { title: t`That is too much at once`, detail: t`Send it in parts.` };
    case "too-late":
      return {
        title: t`It is too late to change this message`,
        detail: t`Messages can be changed for one minute, and not once they have gone out by email. Write another one.`,
      };
    case "too-many-files":
      return {
        title: t`Too many files`,
        detail: t`Send the rest in an hour, or describe them in a message.`,
      };
    case "unknown-widget":
      return {
        title: t`There is no widget with this key`,
        detail: t`Copy the snippet again from Setup: its key must match a widget.`,
      };
    case "wrong-site":
      return {
        title: t`This widget does not belong to this site`,
        detail: t`Add the site's address to the widget, or use the widget made for this site.`,
      };
    default:
      return undefined;
  }
}

/** What the server finds wrong at a field; its English text is its code. */
const fields = new Map([
  [
    "This does not look like a phone number. Begin with + and the country.",
    t`This does not look like a phone number. Begin with + and the country.`,
  ],
  ["We are closed then. Choose another time.", t`We are closed then. Choose another time.`],
  ["Choose among the options.", t`Choose among the options.`],
  ["Choose one of the options.", t`Choose one of the options.`],
  ["Please fill this in.", t`Please fill this in.`],
  ["This does not look like a phone number.", t`This does not look like a phone number.`],
  ["This does not look like an email address.", t`This does not look like an email address.`],
  ["This does not look right.", t`This does not look right.`],
  ["This must be a date and a time.", t`This must be a date and a time.`],
  ["This must be a number.", t`This must be a number.`],
  ["This needs your agreement.", t`This needs your agreement.`],
  [
    "We need your email or phone number so we can reply.",
    t`We need your email or phone number so we can reply.`,
  ],
  ["We need your email so we can reply.", t`We need your email so we can reply.`],
  ["We need your phone number so we can call you.", t`We need your phone number so we can call you.`],
]);

const tooLong = new RegExp(`^${"This is {0} characters too long.".replace("{0}", "(\\d+)")}$`);

/** Says what is wrong at a field that visitors fill in; nothing for a text that is not known here. */
export function visitorField(text: string): string | undefined {
  const n = tooLong.exec(text)?.[1];
  return n ? t`This is ${n} characters too long.` : fields.get(text);
}
