import "./panel.css";

import { createRoot } from "react-dom/client";

import { spoken, visitors } from "../../shared/languages";
import { keepElsewhere, storageLasts } from "../../shared/storage";
import { confide, framed, listenToHost, tellHost, type HostMessage } from "./host";
import { Panel } from "./panel";
import { PanelStore } from "./store";
import { speaks } from "./speaks";

const key = decodeURIComponent(location.pathname.split("/")[2] ?? "");
// A page that does not answer carries an old snippet, or none.
const patience = 4000;
const soon = 100; // milliseconds

/** Lets the page around keep what must last; resolves with whether it does. */
function kept(): Promise<HostMessage> {
  if (!framed) return Promise.resolve({ lasts: storageLasts() });
  return new Promise((resolve) => {
    const give = (answer: HostMessage) => {
      clearTimeout(late);
      stop();
      resolve(answer);
    };
    const late = setTimeout(() => give({}), patience);
    const stop = listenToHost((message) => {
      if (message.kind !== "kept") return;
      keepElsewhere({
        items: new Map(Object.entries(message.items ?? {})),
        keep: (name, value) => confide({ kind: "keep", name, value }),
      });
      give(message);
    });
    tellHost({ kind: "hello" });
  });
}

// What the page asks for counts more than the browser.
const wishes = [new URLSearchParams(location.search).get("language") ?? "", ...navigator.languages];

void Promise.all([kept(), speaks(spoken(wishes, visitors))]).then(async ([{ lasts, waits }]) => {
  // Within the editor of a widget it shows what the editor says.
  const Store = key === "preview" ? (await import("./preview/store")).PreviewStore : PanelStore;
  const store = new Store(key, lasts === true, wishes);
  if (waits) {
    const stop = listenToHost(({ kind, shown }) => {
      if (!shown && kind !== "chat") return;
      stop();
      void store.begin();
    });
  }
  // Where the server answers soon, to draw once is faster than twice.
  else await Promise.race([store.begin(), new Promise((later) => setTimeout(later, soon))]);
  const root = document.getElementById("panel");
  if (root) createRoot(root).render(<Panel store={store} />);
});
