import "./transcripts.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { NavLink, useParams, useSearchParams } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { TranscriptHit } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { InputAdornment, TextField } from "../kit/text-field";
import { usePageTitle } from "../kit/page-title";
import { endingWords } from "../words/codes";
import { VirtualList } from "../kit/virtual-list";
import { MarkWords } from "./mark-words";
import { Reader } from "./reader";

/** The transcripts: a search, what it found, and a reader. */
export default function TranscriptsPage() {
  usePageTitle(t`Transcripts`);
  const { id } = useParams();
  const [address, setAddress] = useSearchParams();
  const words = address.get("words") ?? "";
  const [typed, setTyped] = useState(words);
  const field = useRef<HTMLInputElement>(null);

  useEffect(() => {
    const timer = setTimeout(() => {
      if (typed.trim() !== words) setAddress(typed.trim() ? { words: typed.trim() } : {}, { replace: true });
    }, 200);
    return () => clearTimeout(timer);
  }, [typed, words, setAddress]);

  const found = useInfiniteQuery({
    queryKey: ["transcripts", words],
    initialPageParam: {} as { nextStartedAt?: string; nextId?: string },
    queryFn: ({ pageParam }) =>
      ask(api.GET("/api/transcripts", { params: { query: { words, ...pageParam } } })),
    getNextPageParam: (page) =>
      page.nextId ? { nextStartedAt: page.nextStartedAt ?? "", nextId: page.nextId } : undefined,
    placeholderData: keepPreviousData,
    refetchOnMount: "always",
  });
  const hits = found.data?.pages.flatMap((p) => p.hits) ?? [];
  const total = found.data?.pages[0]?.total ?? 0;

  return (
    <main className="transcripts">
      <header>
        <h1>
          <Trans>Transcripts</Trans>
        </h1>
        <TextField
          inputRef={field}
          size="small"
          type="search"
          value={typed}
          placeholder={t`Search words, names, emails`}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Escape") setTyped("");
          }}
          slotProps={{
            htmlInput: { "aria-label": t`Search the transcripts`, maxLength: 200 },
            input: {
              startAdornment: (
                <InputAdornment position="start">
                  <Icons.Search />
                </InputAdornment>
              ),
            },
          }}
        />
      </header>
      <section className="found" aria-label={t`Chats found`}>
        <p className="total" role="status">
          {found.isPending
            ? t`Searching`
            : words
              ? plural(total, { one: "# chat matches", other: "# chats match" })
              : plural(total, { one: "# chat, newest first", other: "# chats, newest first" })}
        </p>
        {found.isError ? (
          <div className="nothing-found" role="alert">
            <p>{wordsFor(found.error)}</p>
            <Button variant="outlined" onClick={() => void found.refetch()}>
              <Trans>Try again</Trans>
            </Button>
          </div>
        ) : null}
        {found.isSuccess && hits.length === 0 ? (
          <div className="nothing-found">
            {words ? (
              <p>
                <Trans>No chat matches “{words}”. Try fewer words, or only the beginning of a word.</Trans>
              </p>
            ) : (
              <p>
                <Trans>No transcripts yet. When a chat ends, its transcript appears here.</Trans>
              </p>
            )}
          </div>
        ) : null}
        <VirtualList
          label={t`Chats found`}
          items={hits}
          keyOf={(hit) => hit.chat.id}
          height={86}
          draw={(hit) => <Hit hit={hit} words={words} />}
        />
        {found.hasNextPage ? (
          <Button
            variant="outlined"
            className="more"
            disabled={found.isFetchingNextPage}
            onClick={() => void found.fetchNextPage()}
          >
            {found.isFetchingNextPage ? t`Loading` : t`Show more`}
          </Button>
        ) : null}
      </section>
      {id ? (
        <Reader key={id} id={id} words={words} at={Number(address.get("at")) || undefined} />
      ) : (
        <NoneOpen any={hits.length > 0} />
      )}
    </main>
  );
}

function Hit({ hit, words }: { hit: TranscriptHit; words: string }) {
  const { chat } = hit;
  return (
    <NavLink
      to={{
        pathname: `/transcripts/${chat.id}`,
        search: words ? `?words=${encodeURIComponent(words)}` : "",
      }}
    >
      <span className="row">
        <b className="cut">
          <bdi>{chat.name ? <MarkWords text={chat.name} words={words} /> : t`Visitor`}</bdi>
        </b>
        <time dateTime={chat.startedAt}>{dayAndTime(chat.startedAt)}</time>
      </span>
      <span className="excerpt" dir="auto">
        <MarkWords text={hit.excerpt} words={words} />
      </span>
      <span className="row meta">
        <span>{chat.ownerName ?? t`nobody`}</span>
        {chat.ending === "missed" ? (
          <span className="missed">
            <Icons.Warning /> <Trans>missed</Trans>
          </span>
        ) : (
          <span>
            {chat.ending === "message" ? <Icons.Letter /> : <Icons.Check />}{" "}
            {endingWords(chat.ending ?? "answered")}
          </span>
        )}
      </span>
    </NavLink>
  );
}

function NoneOpen({ any }: { any: boolean }) {
  return (
    <section className="reader none">
      <p>{any ? t`Choose a chat on the left to read it.` : ""}</p>
    </section>
  );
}
