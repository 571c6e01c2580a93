import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import { Button } from "../kit/button";
import { offerPage } from "./offer-page";

interface Props {
  chatId: string;
  words: string;
  onOffered: () => void;
}

/** Saved pages that may be shown in a chat, with a way to offer each to the visitor. */
export function Pages({ chatId, words, onOffered }: Props) {
  const [trouble, setTrouble] = useState("");
  const found = useQuery({
    queryKey: ["pages", chatId, words],
    queryFn: () =>
      ask(api.GET("/api/chats/{id}/pages", { params: { path: { id: chatId }, query: { words } } })),
    placeholderData: (before) => before,
  });
  const offer = (url: string) => {
    offerPage(chatId, url).then(onOffered, (error: unknown) => setTrouble(wordsFor(error)));
  };
  return (
    <>
      <ul aria-label={t`Saved pages`}>
        {(found.data ?? []).map((p) => (
          <li key={p.id}>
            <b>{p.title}</b>
            <span className="excerpt">{p.url}</span>
            <span className="acts">
              <Button onClick={() => offer(p.url)}>
                <Trans>Offer to show it</Trans>
              </Button>
              {p.folder ? <span className="meta">{p.folder}</span> : null}
            </span>
          </li>
        ))}
      </ul>
      {trouble || found.isError ? (
        <p className="wrong" role="alert">
          {trouble || wordsFor(found.error)}
        </p>
      ) : null}
      {found.data?.length === 0 ? (
        <p className="nothing">
          {words ? (
            <Trans>No matches.</Trans>
          ) : (
            <Trans>
              No page is saved yet. Leads save them in the Library; an address that you type can be offered,
              too.
            </Trans>
          )}
        </p>
      ) : null}
    </>
  );
}
