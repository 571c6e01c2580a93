import { t } from "@lingui/core/macro";

/** What a visitor reads in a chat; it comes with the code of one. */
export const talkTexts = {
  message: {
    get instead() {
      return t({ id: "message.instead", message: `Leave a message instead` });
    },
    get back() {
      return t({ id: "message.back", message: `Keep waiting` });
    },
    kept: (email: string) =>
      email
        ? t({ id: "message.kept", message: `Your message is saved. We will reply here and to ${email}.` })
        : t({ id: "message.keptPhone", message: `Your message is saved. We will reply here or call you.` }),
    get answered() {
      return t({
        id: "message.answered",
        message: `This is the reply to your message. You can write back here.`,
      });
    },
  },
  get waiting() {
    return t({
      id: "waiting",
      message: `Thanks, we have your question. Someone from our team will answer here.`,
    });
  },
  get waitingNobody() {
    return t({
      id: "waitingNobody",
      message: `Thanks, we have your question, but nobody is here right now.`,
    });
  },
  place: (n: number) =>
    n === 1
      ? t({ id: "placeNext", message: `You are next.` })
      : t({ id: "place", message: `You are number ${n} in the queue.` }),
  estimate: (words: string) => t({ id: "estimate", message: `Estimated wait: ${words}.` }),
  get waitingFor() {
    return t({ id: "waitingFor", message: `Waiting for` });
  },
  get stay() {
    return t({ id: "stay", message: `You can keep browsing; the chat stays with you.` });
  },
  get stayHere() {
    return t({
      id: "stayHere",
      message: `Please stay on this page: your browser does not let us keep the chat for the next one.`,
    });
  },
  joined: (name: string) => t({ id: "joined", message: `${name} joined the chat` }),
  handedOn: (name: string) =>
    t({ id: "handedOn", message: `${name} has taken over and can see everything you wrote` }),
  colleague: (name: string) => t({ id: "colleague", message: `${name} joined the chat` }),
  colleagueLeft: (name: string) => t({ id: "colleagueLeft", message: `${name} left the chat` }),
  get putBack() {
    return t({
      id: "putBack",
      message: `You are back in the queue and keep your place. You will not need to repeat anything.`,
    });
  },
  get closedMeanwhile() {
    return t({
      id: "closedMeanwhile",
      message: `We have closed for now. Your question is saved as a message.`,
    });
  },
  get missed() {
    return t({
      id: "missed",
      message: `You were away for a while, so this chat ended. You can start another one at any time.`,
    });
  },
  typing: (name: string) => t({ id: "typing", message: `${name} is typing` }),
  get you() {
    return t({ id: "you", message: `You` });
  },
  get team() {
    return t({ id: "team", message: `Team` });
  },
  write: (name: string) =>
    name ? t({ id: "writeTo", message: `Write to ${name}` }) : t({ id: "write", message: `Write a message` }),
  get send() {
    return t({ id: "send", message: `Send` });
  },
  get draftsSeen() {
    return t({ id: "draftsSeen", message: `Our team can see what you type before you send it.` });
  },
  get receipts() {
    const sent = t({ id: "receipts.sent", message: `Sent` });
    return {
      sending: t({ id: "receipts.sending", message: `Sending` }),
      sent,
      waiting: sent,
      delivered: sent,
      seen: t({ id: "receipts.seen", message: `Seen` }),
    };
  },
  get notSent() {
    return t({ id: "notSent", message: `Not sent.` });
  },
  get edit() {
    return t({ id: "edit", message: `Edit and resend` });
  },
  get attach() {
    return t({ id: "attach", message: `Send a file` });
  },
  file: {
    get refuse() {
      return t({ id: "file.refuse", message: `No, thank you` });
    },
    get refused() {
      return t({ id: "file.refused", message: `You declined this file.` });
    },
    get open() {
      return t({ id: "file.open", message: `Open` });
    },
    get gone() {
      return t({ id: "file.gone", message: `This file is no longer available.` });
    },
    get voice() {
      return t({ id: "file.voice", message: `Voice message` });
    },
    get cancel() {
      return t({ id: "file.cancel", message: `Cancel` });
    },
    get again() {
      return t({ id: "file.again", message: `Try again` });
    },
    get leave() {
      return t({ id: "file.leave", message: `Remove` });
    },
    sending: (name: string) => t({ id: "file.sending", message: `Sending ${name}` }),
  },
  change: {
    get correct() {
      return t({ id: "change.correct", message: `Edit` });
    },
    get withdraw() {
      return t({ id: "change.withdraw", message: `Delete` });
    },
    get corrected() {
      return t({ id: "change.corrected", message: `edited` });
    },
    get withdrawn() {
      return t({ id: "change.withdrawn", message: `deleted` });
    },
    get save() {
      return t({ id: "change.save", message: `Save` });
    },
    get cancel() {
      return t({ id: "change.cancel", message: `Cancel` });
    },
    get label() {
      return t({ id: "change.label", message: `Edit your message` });
    },
  },
  get automatic() {
    return t({ id: "automatic", message: `Automatic message` });
  },
  get reminded() {
    return t({
      id: "reminded",
      message: `Are you still there? This chat will end soon if we do not hear from you.`,
    });
  },
  get silent() {
    return t({
      id: "silent",
      message: `This chat ended because we did not hear from you. You can start another one at any time.`,
    });
  },
  ended: (time: string) => t({ id: "ended", message: `Chat ended at ${time}.` }),
  get another() {
    return t({ id: "another", message: `Start another chat` });
  },
  get log() {
    return t({ id: "log", message: `Conversation` });
  },
};
