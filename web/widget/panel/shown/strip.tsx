import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState } from "react";

import { wordsFor } from "../../../shared/problem";
import type { PanelState } from "../state";
import type { PanelStore } from "../store";
import { goTo, markOf } from "./go";

/** Says that a page is shown, tells the team where the tab is that it is shown in, and leads back. */
export default function PageStrip({ store, state }: { store: PanelStore; state: PanelState }) {
  const [trouble, setTrouble] = useState("");
  const showing = state.chat?.showing;
  const { url = "", shown } = store.page ?? {};
  // Another tab of the same browser has nothing to do with it.
  const here =
    showing !== undefined && showing.stage !== "offered" && shown === markOf(state.chat?.id, showing.number);
  const live = state.connection === "live";
  const number = here ? showing.number : 0;
  const stage = here ? showing.stage : "";
  useEffect(() => {
    // Said once it can be, and again when the connection was away in between.
    if (live && number && url) store.change("page", number, { how: "at", url }).catch(() => undefined); // the next page says it
  }, [store, live, number, stage, url]);

  // When the team ends it while they look at it, the tab goes back where it was.
  const before = useRef<{ number: number; from: string; stage: string }>(undefined);
  const ended = state.log.events.findLast((e) => e.kind === "page-moved");
  useEffect(() => {
    const was = before.current;
    before.current = here ? { number, from: showing.from ?? "", stage } : undefined;
    if (
      was &&
      !here &&
      was.stage === "there" &&
      was.from &&
      ended?.how === "ended" &&
      ended.upTo === was.number
    )
      goTo(was.from, null);
  });
  if (!here) return null;
  const back = () => {
    const { from = "" } = showing;
    store.change("page", number, { how: "back" }).then(
      () => {
        if (from && stage !== "left") goTo(from, null);
      },
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  return (
    <div className="page-strip" role="status">
      <span>
        {stage === "left"
          ? t({ id: "page.gone", message: `You have left the page that our team showed you.` })
          : t({ id: "page.shown", message: `Our team is showing you this page.` })}
      </span>{" "}
      <button className="plain" onClick={back}>
        {stage === "left"
          ? t({ id: "page.end", message: `All right` })
          : t({ id: "page.back", message: `Go back` })}
      </button>
      {trouble ? <p className="wrong">{trouble}</p> : null}
    </div>
  );
}
