import { msg } from "@lingui/core/macro";
import { useEffect, useMemo, useRef, useState } from "react";

import { whenNext } from "../../../shared/format";
import { wordsFor } from "../../../shared/problem";
import { say } from "../../../shared/speak";
import type { ArticleTitle, HelpView } from "../../../shared/types";
import type { PanelStore } from "../store";
import { texts } from "../texts";
import { answersOf } from "./answers";
import { Article } from "./article";

interface Props {
  store: PanelStore;
  message: boolean;
  words: string;
  search: (words: string) => void;
  /** Goes on to where one writes to somebody. */
  write: () => void;
  look: (looking: boolean) => void;
  /** Goes on to where one asks for a call. */
  call: () => void;
}

const pause = 180;

/** What a search found. */
interface Found {
  asked: string;
  list: ArticleTitle[];
  trouble: string;
}

/** Frequent questions and a search; somebody to write to is always one press away. */
export default function Front({ store, message, words, search, write, look, call }: Props) {
  const { widget } = store.state;
  const { answers: given } = store;
  const answers = useMemo(() => given ?? answersOf(store), [store, given]);
  const [help, setHelp] = useState<HelpView>();
  const [found, setFound] = useState<Found>();
  const [reading, setReading] = useState<ArticleTitle>();
  const field = useRef<HTMLInputElement>(null);
  const page = store.page?.url; // other pages have other FAQs
  // Another one whenever the widget was changed, and the same while only the team moves.
  const edition = widget?.words;

  useEffect(() => {
    let here = true;
    answers.help().then(
      (there) => here && setHelp(there),
      () => here && setHelp({ search: false, faqs: [] }), // whoever cannot look can still ask
    );
    return () => {
      here = false;
    };
  }, [answers, edition, page]);
  useEffect(() => {
    if (!help) return;
    if (!help.search && !help.calls && help.faqs.length === 0)
      store.another(); // nothing on this page
    else if (document.hasFocus() && document.activeElement === document.body) field.current?.focus();
  }, [help, store]);

  const asked = words.trim();
  const searching = asked.length >= 2;
  useEffect(() => {
    if (!searching) return;
    let wanted = true; // an answer to what was typed before is none to this
    const later = setTimeout(() => {
      answers.find(asked).then(
        (list) => wanted && setFound({ asked, list, trouble: "" }),
        (error: unknown) => wanted && setFound({ asked, list: [], trouble: wordsFor(error) }),
      );
    }, pause);
    return () => {
      wanted = false;
      clearTimeout(later);
    };
  }, [answers, asked, searching]);

  if (!widget || !help) return null;
  // Until the next answer comes, the last one stays: a list that flickers cannot be read.
  const shown = searching ? found : undefined;
  const list = shown?.list ?? (searching ? [] : help.faqs);
  const opensAt = widget.now.opensAt;
  return (
    <>
      {reading ? (
        <Article
          key={reading.id}
          answers={answers}
          article={reading}
          back={() => setReading(undefined)}
          write={write}
        />
      ) : (
        <div className="front">
          {message ? (
            <p className="note" dir="auto">
              <b>{widget.closedGreeting || texts.message.closed}</b>{" "}
              {opensAt ? texts.message.opens(whenNext(opensAt, store.now())) : ""}
            </p>
          ) : widget.greeting ? (
            <p className="note" dir="auto">
              {widget.greeting}
            </p>
          ) : null}
          {help.search ? (
            <input
              type="search"
              data-first
              ref={field}
              value={words}
              maxLength={200}
              placeholder={say(msg({ id: "help.search", message: `Search for an answer` }))}
              aria-label={say(msg({ id: "help.search", message: `Search for an answer` }))}
              onInput={(e) => search(e.currentTarget.value)}
            />
          ) : null}
          {list.length > 0 ? (
            <>
              <h2>
                {shown
                  ? say(msg({ id: "help.found", message: `Found` }))
                  : say(msg({ id: "help.asked", message: `Often asked` }))}
              </h2>
              <ul>
                {list.map((a) => (
                  <li key={a.id}>
                    <button type="button" dir="auto" onClick={() => setReading(a)}>
                      {a.title}
                      {a.excerpt ? <small>{a.excerpt}</small> : null}
                    </button>
                  </li>
                ))}
              </ul>
            </>
          ) : null}
          <p className="hint" role="status">
            {shown?.trouble ||
              (shown?.asked === asked && list.length === 0
                ? say(
                    msg({ id: "help.none", message: `We found nothing written about this. Please ask us.` }),
                  )
                : "")}
          </p>
          {widget.booking ? (
            <button className="plain" type="button" onClick={() => look(true)}>
              {texts.start.look}
            </button>
          ) : null}
          {help.calls ? (
            <button className="plain" type="button" onClick={call}>
              {say(msg({ id: "call.title", message: `Have us call you` }))}
            </button>
          ) : null}
          {widget.textNumber ? (
            <a href={widget.textLink}>
              {say(msg({ id: "ways.us", message: `Text us: ${widget.textNumber}` }))}
            </a>
          ) : null}
        </div>
      )}
      <div className="ask-team">
        <button className="go" type="button" data-first={help.search ? undefined : true} onClick={write}>
          {message ? texts.message.send : say(msg({ id: "help.write", message: `Ask our team` }))}
        </button>
      </div>
    </>
  );
}
