import "./panel.css";

import { createRoot } from "react-dom/client";

import { spoken, visitors } from "../../shared/languages";
import { keepElsewhere, storageLasts } from "../../shared/storage";
import { confide, framed, listenToHost, tellHost } from "./host";
import { Panel } from "./panel";
import { PanelStore } from "./store";
import { speaks } from "./speaks";

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

// What the page asks for counts more than the browser.
const wishes = [new URLSearchParams(location.search).get("language") ?? "", ...navigator.languages];

void Promise.all([kept(), speaks(spoken(wishes, visitors))]).then(async ([lasts]) => {
  // Within the editor of a widget it shows what the editor says.
  const Store = key === "preview" ? (await import("./preview/store")).PreviewStore : PanelStore;
  const store = new Store(key, lasts, wishes);
  void store.begin(); // first: while the server answers, the panel is drawn
  const root = document.getElementById("panel");
  if (root) createRoot(root).render(<Panel store={store} />);
});
