import { msg } from "@lingui/core/macro";
import { useEffect, useRef, useState, type MouseEvent } from "react";

import { wordsFor } from "../../../shared/problem";
import { say } from "../../../shared/speak";
import type { ArticleTitle, ReadView } from "../../../shared/types";
import type { Answers } from "./answers";

interface Props {
  answers: Answers;
  article: ArticleTitle;
  back: () => void;
  write: () => void;
}

/** An article for a visitor, who may say whether it helped. */
export function Article({ answers, article, back, write }: Props) {
  const [text, setText] = useState<ReadView>();
  const [trouble, setTrouble] = useState("");
  const [helped, setHelped] = useState<boolean>();
  const [again, setAgain] = useState(0);
  const title = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    let here = true;
    answers.read(article.id).then(
      (read) => {
        if (!here) return;
        setTrouble("");
        setText(read);
      },
      (error: unknown) => here && setTrouble(wordsFor(error)),
    );
    return () => {
      here = false;
    };
  }, [answers, article.id, again]);
  useEffect(() => title.current?.focus(), []); // what was pressed is gone
  const tell = (yes: boolean) => {
    const before = helped;
    setHelped(yes);
    answers.helped(article.id, yes).catch(() => setHelped(before)); // it can be said again
  };
  // A link leads out of the panel, which stays as it is.
  const follow = (event: MouseEvent) => {
    const link = (event.target as Element).closest("a");
    if (!link) return;
    event.preventDefault();
    window.open(link.href, "_blank", "noopener");
  };
  return (
    <div className="front">
      <button className="link back" type="button" onClick={back}>
        {say(msg({ id: "help.back", message: `Back to all answers` }))}
      </button>
      <h2 ref={title} tabIndex={-1} dir="auto">
        {text?.title ?? article.title}
      </h2>
      {text ? (
        // The server renders it from Markdown; raw markup is left out there.
        <div
          className="article"
          dir="auto"
          lang={text.language}
          onClick={follow}
          dangerouslySetInnerHTML={{ __html: text.html }}
        />
      ) : null}
      {trouble ? (
        <p className="wrong" role="alert">
          {trouble}{" "}
          <button className="link" type="button" onClick={() => setAgain(again + 1)}>
            {say(msg({ id: "help.again", message: `Try again` }))}
          </button>
        </p>
      ) : null}
      {text ? (
        <p className="helped" role="status">
          {helped === undefined ? (
            <>
              {say(msg({ id: "help.helped", message: `Did this help?` }))}{" "}
              <button className="plain" type="button" onClick={() => tell(true)}>
                {say(msg({ id: "help.yes", message: `Yes` }))}
              </button>{" "}
              <button className="plain" type="button" onClick={() => tell(false)}>
                {say(msg({ id: "help.no", message: `No` }))}
              </button>
            </>
          ) : helped ? (
            say(msg({ id: "help.glad", message: `Good. Thank you for telling us.` }))
          ) : (
            <>
              {say(msg({ id: "help.sorry", message: `Thank you for telling us.` }))}{" "}
              <button className="link" type="button" onClick={write}>
                {say(msg({ id: "help.instead", message: `Ask somebody instead` }))}
              </button>
            </>
          )}
        </p>
      ) : null}
    </div>
  );
}
