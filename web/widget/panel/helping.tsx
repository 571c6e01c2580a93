import { useState } from "react";

import { firstName, timeOfDay } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { EventView } from "../../shared/types";
import { Words } from "../../shared/words";
import type { PanelState } from "./state";
import type { PanelStore } from "./store";
import { fill } from "../stands";
import { talkTexts } from "./talk-texts";

/** A text of the helper: it comes with the widget, so that only those who have one carry it. */
export function helperText(state: PanelState, what: string, ...values: string[]): string {
  return fill(state.widget?.words[`helper.${what}`], ...values);
}

/** Words that nobody typed: a rule, somebody's welcome, or the helper says them. */
export function AutomaticWords({ event, state }: { event: EventView; state: PanelState }) {
  const helper = event.kind === "helper-said";
  return (
    <div className={helper ? "said helper" : "said"}>
      <p className="by">
        <b>{helper ? helperText(state, "name") : firstName(event.to ?? "", talkTexts.team)}</b>
        <time dateTime={event.at}>{timeOfDay(event.at)}</time>
        <span className="receipt">{talkTexts.automatic}</span>
      </p>
      <div className="words" dir="auto">
        <Words text={event.text ?? ""} />
        {event.helper?.articleId ? (
          <p>
            <a href={`/articles/${event.helper.articleId}`} target="_blank" rel="noopener">
              {helperText(state, "more", event.helper.article ?? "")}
            </a>
          </p>
        ) : null}
      </div>
    </div>
  );
}

/** What a visitor may press while the helper speaks with them, and the way to a person. */
export function Helping({ store, state }: { store: PanelStore; state: PanelState }) {
  const { chat, log, unsent } = state;
  const [pressed, setPressed] = useState<number>();
  const [trouble, setTrouble] = useState("");
  const last = log.events.findLast((e) => e.kind === "helper-said" || e.kind === "said");
  // Pressed once, they are answered: until the helper's next words nothing is to be pressed.
  const choices =
    last?.kind === "helper-said" && last.number !== pressed && unsent.length === 0
      ? (last.helper?.choices ?? [])
      : [];
  return (
    <div className="helping">
      {choices.length > 0 ? (
        <div className="picks" role="group" aria-label={helperText(state, "choices")}>
          {choices.map((words) => (
            <button
              key={words}
              className="plain"
              onClick={() => {
                setPressed(last?.number);
                store.say(words);
              }}
            >
              {words}
            </button>
          ))}
        </div>
      ) : null}
      <p className="hint">
        {chat?.beside ? helperText(state, "beside") : helperText(state, "speaks")}{" "}
        {chat?.beside ? null : (
          <button
            className="link"
            onClick={() =>
              store.change("person", 0).then(
                () => setTrouble(""),
                (error: unknown) => setTrouble(wordsFor(error)),
              )
            }
          >
            {helperText(state, "person")}
          </button>
        )}
      </p>
      {trouble ? (
        <p className="wrong" role="alert">
          {trouble}
        </p>
      ) : null}
    </div>
  );
}
