import "./lane-note.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useEffectEvent } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { TranslationView } from "../../shared/types";
import { languageName } from "./language-name";
import { useTranslator } from "./translator";

interface Props {
  chatId: string;
  /** What is about to be sent. */
  text: string;
  /** Into which language. */
  into: string;
  /** Its translation, when that has come. */
  got: TranslationView | undefined;
  /** Why it could not be translated. */
  trouble: string | undefined;
  /** It was translated, could not be, or (with nothing) is to be tried again. */
  onDone: (done: { got?: TranslationView; trouble?: string }) => void;
  /** Sends it, with its translation or as it was written. */
  onSend: (translation?: TranslationView) => void;
}

/** Shows what is about to be sent as the visitor reads it. The composer shows one for each text. */
export default function Outgoing({ chatId, text, into, got, trouble, onDone, onSend }: Props) {
  const soon = useTranslator()?.shownSoon;
  const language = languageName(into);
  const wanted = soon !== undefined && !got && !trouble;
  const arrived = useEffectEvent((translation: TranslationView) => {
    if (soon) onSend(translation);
    else onDone({ got: translation });
  });
  const failed = useEffectEvent((error: unknown) => onDone({ trouble: wordsFor(error) }));
  useEffect(() => {
    if (!wanted) return;
    let current = true;
    const params = { path: { id: chatId } };
    ask(api.POST("/api/chats/{id}/translations", { params, body: { text } })).then(
      (translation) => {
        if (current) arrived(translation);
      },
      (error: unknown) => {
        if (current) failed(error);
      },
    );
    return () => {
      current = false;
    };
  }, [chatId, text, wanted]);
  if (trouble)
    return (
      <div className="outgoing" role="alert">
        <p className="wrong">
          <Trans>Not sent. {trouble}</Trans>
        </p>
        <p className="row">
          <button
            type="button"
            className="link"
            onClick={() => {
              onDone({});
              document.getElementById(`write-${chatId}`)?.focus();
            }}
          >
            <Trans>Try again</Trans>
          </button>
          <button type="button" className="link" onClick={() => onSend()}>
            <Trans>Send untranslated</Trans>
          </button>
        </p>
      </div>
    );
  if (!got)
    return (
      <div className="outgoing" role="status">
        <p>
          <Trans>Translating into {language}…</Trans>
        </p>
      </div>
    );
  const unknown = got.unknown ?? [];
  return (
    <div className="outgoing" role="status">
      <p>
        <Trans>The visitor reads, in {language}:</Trans>
      </p>
      <blockquote lang={got.language} dir="auto">
        {got.text}
      </blockquote>
      {unknown.length > 0 ? <p>{t`Not translated: ${unknown.join(", ")}`}</p> : null}
      <p className="row">
        <Trans>Enter sends it; change your words to translate them anew.</Trans>
        <button type="button" className="link" onClick={() => onSend()}>
          <Trans>Send untranslated</Trans>
        </button>
      </p>
    </div>
  );
}
