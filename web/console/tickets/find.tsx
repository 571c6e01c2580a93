import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { TicketRow } from "../../shared/types";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { Due } from "./due";
import { statusWords } from "./words";

interface Props {
  /** The id of one that is left out. */
  without?: string;
  /** What is done with one. */
  verb: string;
  choose: (row: TicketRow) => void;
}

/** Finds a ticket by number, words, contact or order. */
export function FindTicket({ without, verb, choose }: Props) {
  const [typed, setTyped] = useState("");
  const [words, setWords] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setWords(typed.trim()), 150);
    return () => clearTimeout(timer);
  }, [typed]);
  return (
    <>
      <TextInput label={t`Number, words, contact, order`} value={typed} change={setTyped} most={200} />
      <TicketsFound words={words} without={without} verb={verb} choose={choose} />
    </>
  );
}

/** The tickets that some words find, with what is done with one; without words those of a chat's person. */
export function TicketsFound({
  words,
  like = "",
  without,
  verb,
  choose,
}: Omit<Props, "without"> & { words: string; like?: string; without?: string | undefined }) {
  const query = words
    ? { words, status: "all" as const, order: "updated" as const }
    : { like, status: "all" as const };
  const found = useQuery({
    queryKey: ["tickets", "found", query],
    queryFn: () => ask(api.GET("/api/tickets", { params: { query } })),
    enabled: words !== "" || like !== "",
    placeholderData: keepPreviousData,
  });
  const list = (found.data?.tickets ?? []).filter((r) => r.id !== without).slice(0, 30);
  return (
    <>
      <ul className="tickets-found" aria-label={t`Tickets found`}>
        {list.map((r) => (
          <li key={r.id}>
            <b>
              <bdi>
                {r.number}: {r.title}
              </bdi>
            </b>
            <span className="excerpt">
              {[statusWords(r.status), r.name || r.email, r.ownerName || t`nobody’s`]
                .filter(Boolean)
                .join(" · ")}{" "}
              <Due at={r.dueAt} />
            </span>
            <span className="acts">
              <Button onClick={() => choose(r)}>{verb}</Button>
            </span>
          </li>
        ))}
      </ul>
      {found.isError ? (
        <p className="wrong" role="alert">
          {wordsFor(found.error)}
        </p>
      ) : null}
      {found.isSuccess && list.length === 0 ? (
        <p className="nothing">
          <Trans>No matches.</Trans>
        </p>
      ) : null}
    </>
  );
}
