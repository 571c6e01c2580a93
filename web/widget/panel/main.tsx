import "./panel.css";

import { i18n } from "@lingui/core";
import { createRoot } from "react-dom/client";

import { spoken } from "../../shared/languages";
import { sayProblemsBy } from "../../shared/problem";
import { speak } from "../../shared/speak";
import { keepElsewhere, storageLasts } from "../../shared/storage";
import { confide, framed, listenToHost, tellHost } from "./host";
import { Panel } from "./panel";
import { PanelStore } from "./store";

const key = decodeURIComponent(location.pathname.split("/")[2] ?? "");
// A page that does not answer carries an old snippet, or none.
const patience = 4000;

/** Lets the page around keep what must last; resolves with whether it does. */
function kept(): Promise<boolean> {
  if (!framed) return Promise.resolve(storageLasts());
  return new Promise((resolve) => {
    const give = (lasts: boolean) => {
      clearTimeout(late);
      stop();
      resolve(lasts);
    };
    const late = setTimeout(() => give(false), patience);
    const stop = listenToHost((message) => {
      if (message.kind !== "kept") return;
      keepElsewhere({
        items: new Map(Object.entries(message.items ?? {})),
        keep: (name, value) => confide({ kind: "keep", name, value }),
      });
      give(message.lasts === true);
    });
    tellHost({ kind: "hello" });
  });
}

/** Speaks the visitor's language, if there are words for it. */
async function speaks(): Promise<void> {
  const asked = new URLSearchParams(location.search).get("language");
  const language = spoken([asked, ...navigator.languages]);
  const { messages } = await import(`../../locales/panel/${language}.po`);
  speak(language, messages);
  // In English the server says them itself.
  if (language !== "en") void problems(language);
}

async function problems(language: string): Promise<void> {
  const [{ visitorProblem, visitorField }, { messages }] = await Promise.all([
    import("../../shared/visitor-problems"),
    import(`../../locales/problems/${language}.po`),
  ]);
  i18n.load(language, messages);
  sayProblemsBy(visitorProblem, visitorField);
}

void Promise.all([kept(), speaks()]).then(([lasts]) => {
  const store = new PanelStore(key, lasts);
  const root = document.getElementById("panel");
  if (root) createRoot(root).render(<Panel store={store} />);
  void store.begin();
});
