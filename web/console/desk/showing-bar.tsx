import "./lane-note.css";

import { Trans } from "@lingui/react/macro";

import { api, ask } from "../../shared/api";
import type { ShowingView } from "../../shared/types";
import { Icons } from "../icons";
import { sayTrouble } from "../kit/say";

/** Says how far a page has come that is offered or shown to the visitor, and ends it. */
export default function ShowingBar({ chatId, page }: { chatId: string; page: ShowingView }) {
  const { number, stage } = page;
  const title = <b dir="auto">{page.title}</b>;
  const end = () => {
    ask(api.DELETE("/api/chats/{id}/page/{number}", { params: { path: { id: chatId, number } } })).catch(
      sayTrouble,
    );
  };
  return (
    <div className="lane-note" role="status" title={page.url}>
      <Icons.Page />
      <span className="what">
        {stage === "offered" ? (
          <Trans>Offered: {title}. The visitor has not answered.</Trans>
        ) : stage === "going" ? (
          <Trans>The visitor is on the way to {title}.</Trans>
        ) : stage === "there" ? (
          <Trans>The visitor is looking at {title}.</Trans>
        ) : (
          <Trans>The visitor has gone on from {title}.</Trans>
        )}
      </span>
      <button type="button" className="link" onClick={end}>
        {stage === "offered" ? (
          <Trans>Take back</Trans>
        ) : stage === "left" ? (
          <Trans>End showing</Trans>
        ) : (
          <Trans>Take the visitor back</Trans>
        )}
      </button>
    </div>
  );
}
