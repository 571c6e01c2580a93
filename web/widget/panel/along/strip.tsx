import { t } from "@lingui/core/macro";
import { useEffect, useState } from "react";

import { firstName } from "../../../shared/format";
import { wordsFor } from "../../../shared/problem";
import { confide, framed, listenToHost } from "../host";
import type { PanelState } from "../state";
import type { PanelStore } from "../store";
import { markOf } from "../shown/go";
import { useNotice } from "../shown/notice";

function hear(store: PanelStore, listener: PanelStore["wishes"]): void {
  store.wishes = listener;
}

/** Asks whether the team may see the page, and says so as long as they do; either side ends it. */
export default function AlongStrip({ store, state }: { store: PanelStore; state: PanelState }) {
  const [trouble, setTrouble] = useState("");
  const [scroll, setScroll] = useState(false);
  const chatId = state.chat?.id;
  const along = state.chat?.along;
  const number = along?.number ?? 0;
  const mark = markOf(chatId, number);
  // The tab in which they said yes; it knows so itself after it went to another page.
  const [saidHere, setSaidHere] = useState("");
  const here = along?.on === true && (saidHere === mark || store.page?.along === mark);
  const name = firstName(along?.name ?? "");
  const answer = (how: "yes" | "no" | "end") => {
    if (how === "yes") setSaidHere(mark);
    store.change("answer-along", number, { how, scroll }).then(
      () => setTrouble(""),
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  const may = along?.scroll === true;
  useEffect(() => {
    if (!here) return;
    const words = {
      sees: t({ id: "along.sees", message: `${name} sees this page.` }),
      stop: t({ id: "along.stop", message: `Stop` }),
    };
    confide({ kind: "along", what: "start", mark, scroll: may, words });
    const unheard = listenToHost(({ kind, part, end }) => {
      if (kind !== "along") return;
      if (end) void store.change("answer-along", number, { how: "end" }).catch(() => undefined);
      // What gets lost is not received, and sent anew then.
      else if (part) void store.change("along", number, part).catch(() => undefined);
    });
    hear(store, (wish) => {
      if (wish.chatId === chatId && wish.number === number)
        confide({ ...wish, kind: "along", type: undefined });
    });
    return () => {
      unheard();
      hear(store, undefined);
      confide({ kind: "along", what: "stop" });
    };
  }, [store, chatId, number, here, mark, may, name]);
  useNotice(store, along !== undefined && !along.on);
  if (!along) return null;
  const wrong = trouble ? (
    <p className="wrong" role="alert">
      {trouble}
    </p>
  ) : null;
  if (along.on)
    return (
      <div className="page-strip" role="status">
        <span>
          {here
            ? t({ id: "along.on", message: `${name} sees the page that you see.` })
            : t({ id: "along.elsewhere", message: `${name} sees a page that you have open elsewhere.` })}
        </span>{" "}
        <button className="plain" onClick={() => answer("end")}>
          {t({ id: "along.stop", message: `Stop` })}
        </button>
        {wrong}
      </div>
    );
  if (!framed) return null; // there is no page around this one
  return (
    <div
      className="page-strip along-ask"
      role="alertdialog"
      aria-label={t({ id: "along.label", message: `May we see your page?` })}
    >
      <p>
        {t({
          id: "along.ask",
          message: `${name} asks to see the pages of this site with you, as long as you let them. They do not see passwords, cards or anything outside this site.`,
        })}{" "}
        {along.kept ? t({ id: "along.kept", message: `What they see is kept with this chat.` }) : ""}
      </p>
      <label>
        <input type="checkbox" checked={scroll} onChange={(e) => setScroll(e.currentTarget.checked)} />{" "}
        {t({ id: "along.scroll", message: `They may also scroll the page` })}
      </label>
      <p className="acts">
        <button className="go" onClick={() => answer("yes")}>
          {t({ id: "along.yes", message: `Let them see it` })}
        </button>{" "}
        <button className="plain" onClick={() => answer("no")}>
          {t({ id: "along.no", message: `No, thank you` })}
        </button>
      </p>
      {wrong}
    </div>
  );
}
