import { msg } from "@lingui/core/macro";
import { useRef, useState, type FormEvent } from "react";

import { wordsFor } from "../../../shared/problem";
import { say } from "../../../shared/speak";
import { kept } from "../../../shared/storage";
import type { SurveyView, WidgetView } from "../../../shared/types";
import { ask } from "../ask";
import type { PanelStore } from "../store";
import looks from "./survey.css?inline";

// A style sheet that comes by itself would cost every panel the code that fetches it.
const sheet = new CSSStyleSheet();
sheet.replaceSync(looks);
document.adoptedStyleSheets.push(sheet);

interface Props {
  store: PanelStore;
  chatId: string;
  /** What the visitor has said before. */
  said: SurveyView;
  widget: WidgetView;
}

const ratings = [
  msg({ id: "survey.1", message: `Very poor` }),
  msg({ id: "survey.2", message: `Poor` }),
  msg({ id: "survey.3", message: `All right` }),
  msg({ id: "survey.4", message: `Good` }),
  msg({ id: "survey.5", message: `Very good` }),
];

/** Asks how a chat was. One click is enough; words may follow; doing nothing is fine. */
export default function Survey({ store, chatId, said, widget }: Props) {
  const [rating, setRating] = useState(said.rating ?? 0);
  const [words, setWords] = useState(said.words ?? "");
  const [stored, setStored] = useState({ rating: said.rating ?? 0, words: said.words ?? "" });
  const [trouble, setTrouble] = useState("");
  // One at a time, and the newest last: of two clicks the second holds.
  const wanted = useRef<{ rating: number; words: string }>(undefined);
  const busy = useRef(false);
  const send = async (what: { rating: number; words: string }) => {
    wanted.current = what;
    setTrouble("");
    if (busy.current) return;
    busy.current = true;
    try {
      while (wanted.current) {
        const now: { rating: number; words: string } = wanted.current;
        wanted.current = undefined;
        const path = `/widget/${encodeURIComponent(store.key)}/chats/${chatId}/rating`;
        await ask(path, { token: kept(store.tokenKey) ?? "", ...now });
        setStored(now);
      }
    } catch (error) {
      wanted.current = undefined;
      setTrouble(wordsFor(error));
    } finally {
      busy.current = false;
    }
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void send({ rating, words: words.trim() });
  };
  const added = stored.words !== "" && stored.words === words.trim();
  return (
    <form className="survey" onSubmit={submit}>
      <fieldset>
        <legend dir="auto">
          {widget.surveyQuestion || say(msg({ id: "survey.how", message: `How was this chat?` }))}
        </legend>
        <div className="scale">
          {ratings.map((name, i) => (
            <button
              key={i}
              type="button"
              aria-pressed={rating === i + 1}
              onClick={() => {
                setRating(i + 1);
                void send({ rating: i + 1, words: stored.words });
              }}
            >
              <i aria-hidden="true" />
              {say(name)}
            </button>
          ))}
        </div>
      </fieldset>
      {rating > 0 ? (
        <label className="words">
          <span dir="auto">
            {widget.surveyWordsQuestion ||
              (rating < 3
                ? say(msg({ id: "survey.better", message: `What should we do better?` }))
                : say(msg({ id: "survey.add", message: `Anything you would like to add?` })))}
          </span>
          <textarea
            rows={2}
            maxLength={2000}
            dir="auto"
            value={words}
            onInput={(e) => setWords(e.currentTarget.value)}
          />
        </label>
      ) : null}
      <p className="wrong" role="alert">
        {trouble ? (
          <>
            {trouble}{" "}
            <button className="link">{say(msg({ id: "survey.again", message: `Send again` }))}</button>
          </>
        ) : null}
      </p>
      {rating > 0 && !trouble ? (
        <p className="row" role="status">
          <span>
            {added
              ? say(msg({ id: "survey.thanksWords", message: `Thank you. We have what you wrote.` }))
              : stored.rating > 0
                ? say(msg({ id: "survey.thanks", message: `Thank you.` }))
                : ""}
          </span>
          {words.trim() && !added ? (
            <button className="plain">{say(msg({ id: "survey.send", message: `Send your words` }))}</button>
          ) : null}
        </p>
      ) : null}
    </form>
  );
}
