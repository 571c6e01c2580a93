import "./translating.css";

import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import type { ChatView } from "../../shared/types";
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
  const ability = useTranslator();
  const [choosing, setChoosing] = useState(false);
  const [declined, setDeclined] = useKept(`stoop.desk.untranslated.${chat.id}`);
  const said = useScripts(
    (s) => s.logs.get(chat.id)?.events.filter((e) => e.kind === "said" && e.side === "visitor").length ?? 0,
  );
  const languages = ability?.languages ?? [];
  const after = guessedAfter.findLast((n) => n <= said);
  const wanted = languages.length > 1 && !chat.translating && declined === null && after !== undefined;
  const guess = useQuery({
    queryKey: ["language", chat.id, after],
    queryFn: () => ask(api.GET("/api/chats/{id}/language", { params: { path: { id: chat.id } } })),
    enabled: wanted,
    staleTime: Infinity,
  }).data;
  const mine = myLanguage(languages);
  const dialog = choosing ? (
    <TranslationDialog chat={chat} guess={guess?.language ?? ""} onClose={() => setChoosing(false)} />
  ) : null;
  if (chat.translating) {
    const { theirs, ours, guessed } = chat.translating;
    const params = { path: { id: chat.id } };
    return (
      <div className="tongues" role="status">
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
            setDeclined("stopped"); // who stops it is not asked again
            ask(api.DELETE("/api/chats/{id}/translation", { params })).catch(sayTrouble);
          }}
        >
          <Trans>Stop</Trans>
        </button>
        {dialog}
      </div>
    );
  }
  if (!wanted || !guess?.sure || !guess.language || guess.language === mine) return dialog;
  return (
    <div className="tongues" role="status">
      <Icons.Languages />
      <span className="what">
        <Trans>This seems to be {languageName(guess.language)}.</Trans>
      </span>
      <button
        type="button"
        className="link"
        onClick={() => void translate(chat.id, guess.language, mine, true).catch(sayTrouble)}
      >
        <Trans>Translate into {languageName(mine)}</Trans>
      </button>
      <button type="button" className="link" onClick={() => setChoosing(true)}>
        <Trans>Another language</Trans>
      </button>
      <button type="button" className="link" onClick={() => setDeclined("declined")}>
        <Trans>Not needed</Trans>
      </button>
      {dialog}
    </div>
  );
}
