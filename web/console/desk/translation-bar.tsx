import "./lane-note.css";

import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import type { ChatView, TranslatingView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Icons } from "../icons";
import { sayTrouble } from "../kit/say";
import { languageName } from "./language-name";
import { useScripts } from "./provider";
import TranslationDialog from "./translation-dialog";
import { myLanguage, translate, useTranslator } from "./translator";

// After so many messages of the visitor it is guessed anew: at first there is little to guess from.
const guessedAfter = [1, 2, 4, 8, 16];

/** Says between which languages a chat is translated, and offers it where the visitor seems to write another. */
export default function TranslationBar({ chat }: { chat: ChatView }) {
  const languages = useTranslator()?.languages ?? [];
  const [declined, setDeclined] = useKept(`stoop.desk.untranslated.${chat.id}`);
  if (chat.translating) {
    // Who stops it is not offered it again.
    return <Translated chat={chat} between={chat.translating} onStop={() => setDeclined("stopped")} />;
  }
  if (languages.length < 2 || declined !== null) return null;
  return <Offer chat={chat} mine={myLanguage(languages)} onDecline={() => setDeclined("declined")} />;
}

interface TranslatedProps {
  chat: ChatView;
  between: TranslatingView;
  onStop: () => void;
}

function Translated({ chat, between, onStop }: TranslatedProps) {
  const [choosing, setChoosing] = useState(false);
  const { theirs, ours, guessed } = between;
  const params = { path: { id: chat.id } };
  return (
    <div className="lane-note" role="status">
      <Icons.Languages />
      <span className="what">
        {guessed ? (
          <Trans>
            Translated: visitor reads {languageName(theirs)} (a guess), you read {languageName(ours)}
          </Trans>
        ) : (
          <Trans>
            Translated: visitor reads {languageName(theirs)}, you read {languageName(ours)}
          </Trans>
        )}
      </span>
      <button type="button" className="link" onClick={() => setChoosing(true)}>
        <Trans>Change</Trans>
      </button>
      <button
        type="button"
        className="link"
        onClick={() => {
          ask(api.DELETE("/api/chats/{id}/translation", { params })).then(onStop, sayTrouble);
        }}
      >
        <Trans>Stop</Trans>
      </button>
      {choosing ? <TranslationDialog chat={chat} onClose={() => setChoosing(false)} /> : null}
    </div>
  );
}

interface OfferProps {
  chat: ChatView;
  /** The language that I read. */
  mine: string;
  onDecline: () => void;
}

function Offer({ chat, mine, onDecline }: OfferProps) {
  const [choosing, setChoosing] = useState(false);
  const after = useScripts((s) => {
    const said = s.logs.get(chat.id)?.events.filter((e) => e.kind === "said" && e.side === "visitor").length;
    return guessedAfter.findLast((n) => n <= (said ?? 0));
  });
  const guess = useQuery({
    queryKey: ["language", chat.id, after],
    queryFn: () => ask(api.GET("/api/chats/{id}/language", { params: { path: { id: chat.id } } })),
    enabled: after !== undefined,
    staleTime: Infinity,
    placeholderData: (before) => before,
  }).data;
  if (!guess?.sure || !guess.language || guess.language === mine) return null;
  const { language } = guess;
  return (
    <div className="lane-note" role="status">
      <Icons.Languages />
      <span className="what">
        <Trans>This seems to be {languageName(language)}.</Trans>
      </span>
      <button
        type="button"
        className="link"
        onClick={() => void translate(chat.id, language, mine, true).catch(sayTrouble)}
      >
        <Trans>Translate into {languageName(mine)}</Trans>
      </button>
      <button type="button" className="link" onClick={() => setChoosing(true)}>
        <Trans>Another language</Trans>
      </button>
      <button type="button" className="link" onClick={onDecline}>
        <Trans>Not needed</Trans>
      </button>
      {choosing ? (
        <TranslationDialog chat={chat} guess={language} onClose={() => setChoosing(false)} />
      ) : null}
    </div>
  );
}
