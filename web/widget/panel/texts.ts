import { t } from "@lingui/core/macro";

/** What a visitor reads before a chat; each text is said in the language that is spoken then. */
export const texts = {
  start: {
    get name() {
      return t({ id: "start.name", message: `Your name` });
    },
    get email() {
      return t({ id: "start.email", message: `Email` });
    },
    get optional() {
      return t({ id: "start.optional", message: `optional` });
    },
    get question() {
      return t({ id: "start.question", message: `Your question` });
    },
    answer: (name: string) => t({ id: "start.answer", message: `Write to ${name}` }),
    get send() {
      return t({ id: "start.send", message: `Start chat` });
    },
    get empty() {
      return t({ id: "start.empty", message: `Write your question first.` });
    },
    get fill() {
      return t({ id: "start.fill", message: `Please fill this in.` });
    },
    get agree() {
      return t({ id: "start.agree", message: `We need your agreement to go on.` });
    },
    get pattern() {
      return t({ id: "start.pattern", message: `This does not look right.` });
    },
    get choose() {
      return t({ id: "start.choose", message: `Choose` });
    },
    get look() {
      return t({ id: "start.look", message: `My booking` });
    },
    get find() {
      return t({ id: "start.find", message: `Find an answer` });
    },
    writingAs: (who: string) => t({ id: "start.writingAs", message: `Writing as ${who}.` }),
    get change() {
      return t({ id: "start.change", message: `Change` });
    },
  },
  message: {
    get closed() {
      return t({ id: "message.closed", message: `Nobody is here to answer right now.` });
    },
    opens: (when: string) => t({ id: "message.opens", message: `We are back ${when}.` }),
    get leave() {
      return t({
        id: "message.leave",
        message: `Leave us your question and we will reply as soon as we can.`,
      });
    },
    get email() {
      return t({ id: "message.email", message: `Your email, for our reply` });
    },
    get phone() {
      return t({ id: "message.phone", message: `Your phone number, for our reply` });
    },
    get either() {
      return t({ id: "message.either", message: `One of the two is enough.` });
    },
    get send() {
      return t({ id: "message.send", message: `Leave message` });
    },
  },
  left: (n: number) => t({ id: "left", message: `Characters left: ${n}` }),
  over: (n: number) => t({ id: "over", message: `Characters too many: ${n}` }),
  get end() {
    return t({ id: "end", message: `End chat` });
  },
  get endAsk() {
    return t({ id: "endAsk", message: `End this chat?` });
  },
  get endYes() {
    return t({ id: "endYes", message: `End chat` });
  },
  get endNo() {
    return t({ id: "endNo", message: `Keep chat open` });
  },
  get hide() {
    return t({ id: "hide", message: `Hide the chat` });
  },
  get connecting() {
    return t({ id: "connecting", message: `Connecting` });
  },
  get lost() {
    return t({ id: "lost", message: `No connection. Trying again; what you write is saved.` });
  },
  get broken() {
    return t({ id: "broken", message: `The chat could not be opened.` });
  },
  get again() {
    return t({ id: "again", message: `Try again` });
  },
};
