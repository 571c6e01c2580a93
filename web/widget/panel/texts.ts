import { plural, t } from "@lingui/core/macro";

/** All words that a visitor reads, in one place; each is said in the language that is spoken then. */
export const texts = {
  start: {
    get name() {
      return t`Your name`;
    },
    get email() {
      return t`Email`;
    },
    get optional() {
      return t`optional`;
    },
    get question() {
      return t`Your question`;
    },
    answer: (name: string) => t`Write to ${name}`,
    get send() {
      return t`Start chat`;
    },
    get empty() {
      return t`Write your question first.`;
    },
    get fill() {
      return t`Please fill this in.`;
    },
    get agree() {
      return t`We need your agreement to go on.`;
    },
    get choose() {
      return t`Choose`;
    },
    get look() {
      return t`My booking`;
    },
    writingAs: (who: string) => t`Writing as ${who}.`,
    get change() {
      return t`Change`;
    },
  },
  message: {
    get closed() {
      return t`Nobody is here to answer right now.`;
    },
    opens: (when: string) => t`We are back ${when}.`,
    get leave() {
      return t`Leave us your question and we will reply as soon as we can.`;
    },
    get instead() {
      return t`Leave a message instead`;
    },
    get email() {
      return t`Your email, for our reply`;
    },
    get phone() {
      return t`Your phone number, for our reply`;
    },
    get either() {
      return t`One of the two is enough.`;
    },
    get send() {
      return t`Leave message`;
    },
    get back() {
      return t`Keep waiting`;
    },
    kept: (email: string) =>
      email
        ? t`Your message is saved. We will reply here and to ${email}.`
        : t`Your message is saved. We will reply here or call you.`,
    get answered() {
      return t`This is the reply to your message. You can write back here.`;
    },
  },
  get waiting() {
    return t`Thanks, we have your question. Someone from our team will answer here.`;
  },
  get waitingNobody() {
    return t`Thanks, we have your question, but nobody is here right now.`;
  },
  place: (n: number) => (n === 1 ? t`You are next.` : t`You are number ${n} in the queue.`),
  estimate: (words: string) => t`Estimated wait: ${words}.`,
  get waitingFor() {
    return t`Waiting for`;
  },
  get stay() {
    return t`You can keep browsing; the chat stays with you.`;
  },
  get stayHere() {
    return t`Please stay on this page: your browser does not let us keep the chat for the next one.`;
  },
  joined: (name: string) => t`${name} joined the chat`,
  handedOn: (name: string) => t`${name} has taken over and can see everything you wrote`,
  colleague: (name: string) => t`${name} joined the chat`,
  colleagueLeft: (name: string) => t`${name} left the chat`,
  get putBack() {
    return t`You are back in the queue and keep your place. You will not need to repeat anything.`;
  },
  get closedMeanwhile() {
    return t`We have closed for now. Your question is saved as a message.`;
  },
  get missed() {
    return t`You were away for a while, so this chat ended. You can start another one at any time.`;
  },
  typing: (name: string) => t`${name} is typing`,
  get you() {
    return t`You`;
  },
  get team() {
    return t`Team`;
  },
  write: (name: string) => (name ? t`Write to ${name}` : t`Write a message`),
  get send() {
    return t`Send`;
  },
  get draftsSeen() {
    return t`Our team can see what you type before you send it.`;
  },
  left: (n: number) => plural(n, { one: "# character left", other: "# characters left" }),
  over: (n: number) => plural(n, { one: "# character too many", other: "# characters too many" }),
  get receipts() {
    return { sending: t`Sending`, sent: t`Sent`, waiting: t`Sent`, delivered: t`Sent`, seen: t`Seen` };
  },
  get notSent() {
    return t`Not sent.`;
  },
  get edit() {
    return t`Edit and resend`;
  },
  get attach() {
    return t`Send a file`;
  },
  file: {
    get refuse() {
      return t`No, thank you`;
    },
    get refused() {
      return t`You declined this file.`;
    },
    get open() {
      return t`Open`;
    },
    get gone() {
      return t`This file is no longer available.`;
    },
    get voice() {
      return t`Voice message`;
    },
    get cancel() {
      return t`Cancel`;
    },
    get again() {
      return t`Try again`;
    },
    get leave() {
      return t`Remove`;
    },
    sending: (name: string) => t`Sending ${name}`,
  },
  change: {
    get correct() {
      return t`Edit`;
    },
    get withdraw() {
      return t`Delete`;
    },
    get corrected() {
      return t`edited`;
    },
    get withdrawn() {
      return t`deleted`;
    },
    get save() {
      return t`Save`;
    },
    get cancel() {
      return t`Cancel`;
    },
    get label() {
      return t`Edit your message`;
    },
  },
  get reminded() {
    return t`Are you still there? This chat will end soon if we do not hear from you.`;
  },
  get silent() {
    return t`This chat ended because we did not hear from you. You can start another one at any time.`;
  },
  get end() {
    return t`End chat`;
  },
  get endAsk() {
    return t`End this chat?`;
  },
  get endYes() {
    return t`End chat`;
  },
  get endNo() {
    return t`Keep chat open`;
  },
  ended: (time: string) => t`Chat ended at ${time}.`,
  get another() {
    return t`Start another chat`;
  },
  get hide() {
    return t`Hide the chat`;
  },
  get connecting() {
    return t`Connecting`;
  },
  get lost() {
    return t`No connection. Trying again; what you write is saved.`;
  },
  get broken() {
    return t`The chat could not be opened.`;
  },
  get again() {
    return t`Try again`;
  },
  get log() {
    return t`Conversation`;
  },
};
