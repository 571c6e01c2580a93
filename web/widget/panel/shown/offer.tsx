import { t } from "@lingui/core/macro";
import { useState } from "react";

import { firstName } from "../../../shared/format";
import { wordsFor } from "../../../shared/problem";
import type { EventView } from "../../../shared/types";
import type { PanelState } from "../state";
import type { PanelStore } from "../store";
import { goTo, markOf } from "./go";
import { useNotice } from "./notice";

interface Props {
  store: PanelStore;
  state: PanelState;
  event: EventView;
}

/** A page that the team offers to show: the visitor's tab goes there when they press the button, and not before. */
export default function PageOffer({ store, state, event }: Props) {
  const [trouble, setTrouble] = useState("");
  const page = event.shownPage;
  const showing = state.chat?.showing;
  const waits = showing?.number === event.number && showing.stage === "offered";
  useNotice(store, waits);
  if (!page) return null;
  const what = state.log.events.find((e) => e.kind === "page-moved" && e.upTo === event.number)?.how;
  const over =
    what === "declined"
      ? t({ id: "page.declined", message: `You declined this page.` })
      : waits || what === "accepted"
        ? ""
        : t({ id: "page.over", message: `This page is not offered any more.` });
  const answer = (how: "yes" | "no") => {
    const { url = "" } = store.page ?? {};
    store.change("page", event.number, { how, url }).then(
      () => {
        if (how === "yes") goTo(page.url, markOf(state.chat?.id, event.number));
      },
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  const name = firstName(event.name);
  return (
    <div className="said page-offer">
      <p className="by">{t({ id: "page.offer", message: `${name} would like to show you a page:` })}</p>
      <div className="words">
        <b dir="auto">{page.title}</b>
        <p className="size">{page.url.replace(/^https?:\/\//, "")}</p>
        {waits ? (
          <p className="acts">
            <button className="go" onClick={() => answer("yes")}>
              {t({ id: "page.yes", message: `Go there` })}
            </button>{" "}
            <button className="plain" onClick={() => answer("no")}>
              {t({ id: "page.no", message: `No, thank you` })}
            </button>
          </p>
        ) : null}
        {over ? <p className="size">{over}</p> : null}
        {waits ? (
          <p className="size">
            {t({ id: "page.stays", message: `The chat stays open, and you can come back.` })}
          </p>
        ) : null}
      </div>
      {trouble ? (
        <p className="wrong" role="alert">
          {trouble}
        </p>
      ) : null}
    </div>
  );
}
