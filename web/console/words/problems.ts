import { t } from "@lingui/core/macro";

import type { ProblemText } from "../../shared/problem";
import type { Problem } from "../../shared/types";

/** Says what the server could not do and what to do now, by its code; nothing for a code that is new. */
export function problemWords(problem: Problem): ProblemText | undefined {
  switch (problem.code) {
    case "bad-client-id":
      return { title: t`The message has no usable id`, detail: t`Reload the page and send it again.` };
    case "bad-login":
      return { title: t`Email or password is wrong`, detail: t`Check both and try again.` };
    case "bad-request":
      return { title: t`The request could not be read`, detail: t`Reload the page and try again.` };
    case "bad-token":
      return { title: t`This conversation cannot be opened`, detail: t`Reload the page.` };
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
    case "chat-ended":
      return {
        title: t`This chat has ended`,
        detail: t`Nothing more can be sent here. Start another chat to continue.`,
      };
    case "chat-taken":
      return { title: t`A colleague was faster`, detail: t`They have the chat now.` };
    case "closed":
      return {
        title: t`Nobody can answer right now`,
        detail: t`Leave a message and we will reply as soon as somebody is back.`,
      };
    case "contact-changed":
      return {
        title: t`A colleague changed this contact in the meantime`,
        detail: t`Their version is shown beside yours. Choose which to keep.`,
      };
    case "empty-file":
      return { title: t`This file is empty`, detail: t`Choose another one.` };
    case "handing-on":
      return {
        title: t`This chat is already being handed on`,
        detail: t`Take it back first, or wait until somebody responds.`,
      };
    case "huge-picture":
      return {
        title: t`This picture is too large or too complex`,
        detail: t`Save it again below 50 megapixels, then send it.`,
      };
    case "is-message":
      return { title: t`This is a message, not a live chat`, detail: t`Reply to it; it is kept until then.` };
    case "login-first":
      return { title: t`You are not logged in`, detail: t`Log in to continue. What you typed is kept.` };
    case "many-tags":
      return { title: t`This chat already has 20 tags`, detail: t`Remove one first.` };
    case "message-empty":
      return { title: t`There is nothing to send`, detail: t`Write a few words first.` };
    case "message-too-long":
      return { title: t`The message is too long`, detail: t`Shorten it or send it in parts.` };
    case "needs-outcome":
      return { title: t`This chat needs an outcome`, detail: t`Choose one, then close the lane.` };
    case "no-files":
      return { title: t`Files cannot be sent here`, detail: t`Describe it in a message instead.` };
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
    case "not-a-picture":
      return {
        title: t`This file is not the picture it claims to be`,
        detail: t`Open it on your computer. If it shows there, save it again as PNG or JPEG.`,
      };
    case "not-allowed":
      return { title: t`Your role does not allow this`, detail: t`Ask an admin if you need it.` };
    case "not-found":
      return { title: t`Not found`, detail: t`It does not exist, or no longer exists.` };
    case "not-taken":
      return { title: t`Nobody has taken this chat yet`, detail: t`Take it first, then reply.` };
    case "not-that":
      return { title: t`This cannot be changed`, detail: t`It was changed or withdrawn in the meantime.` };
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
