import "./transcripts.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useCallback, useRef, type KeyboardEvent } from "react";
import { NavLink, useNavigate, useParams } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { TranscriptHit, Transcripts } from "../../shared/types";
import { askedOf, names } from "../filters/asked";
import { useChoices } from "../filters/choices";
import { Icons } from "../icons";
import { useAddress } from "../kit/address";
import { usePageTitle } from "../kit/page-title";
import { LoadTrouble } from "../kit/states";
import { InputAdornment, TextField } from "../kit/text-field";
import { useTypedWords } from "../kit/typed-words";
import { VirtualList } from "../kit/virtual-list";
import { ReviewsLink } from "../reviews/link";
import { count } from "../reports/figures";
import { Behind, Loading } from "../reports/loaded";
import { endingWords, ratingWords } from "../words/codes";
import { Exports } from "./exports";
import { Marked } from "./mark-words";
import { Narrow } from "./narrow";
import { Reader } from "./reader";
import { Saved } from "./saved";

/** The transcripts: a search, what it found, and a reader. */
export default function TranscriptsPage() {
  usePageTitle(t`Transcripts`);
  const { id } = useParams();
  const navigate = useNavigate();
  const [address, change] = useAddress();
  const words = address.get("words") ?? "";
  const oldest = address.get("oldest") === "1";
  const [typed, setTyped] = useTypedWords(words, (text) => change({ words: text, at: "" }), 250);
  const field = useRef<HTMLInputElement>(null);
  const choices = useChoices();

  const asked = { ...askedOf(address), words, oldest };
  const found = useInfiniteQuery({
    queryKey: ["transcripts", asked],
    initialPageParam: {} as { nextArrivedAt?: string; nextId?: string },
    queryFn: ({ pageParam }) =>
      ask(api.GET("/api/transcripts", { params: { query: { ...asked, ...pageParam } } })),
    getNextPageParam: (page: Transcripts) =>
      page.nextId ? { nextArrivedAt: page.nextArrivedAt ?? "", nextId: page.nextId } : undefined,
    placeholderData: keepPreviousData,
    refetchOnMount: "always",
    // What has just ended may come a moment later: it is looked again a few times, unless
    // somebody has scrolled on.
    refetchInterval: (query) =>
      query.state.data?.pages.length === 1 && query.state.dataUpdateCount < 4 ? 5000 : false,
  });
  const pages = found.data?.pages ?? [];
  const hits = pages.flatMap((p) => p.hits);
  const total = pages[0]?.total ?? 0;
  const more = pages[0]?.more ?? false;
  const terms = pages[0]?.terms ?? [];
  const narrowed = words !== "" || names.some((name) => address.get(name));
  const search = address.toString();

  const go = (by: number) => {
    const now = hits.findIndex((h) => h.chat.id === id);
    const next = hits[now < 0 ? 0 : now + by];
    if (next) void navigate({ pathname: `/transcripts/${next.chat.id}`, search });
  };
  const keys = (event: KeyboardEvent) => {
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    event.preventDefault();
    go(event.key === "ArrowDown" ? 1 : -1);
  };
  const fetchMore = useCallback(() => {
    if (found.hasNextPage && !found.isFetchingNextPage) void found.fetchNextPage();
  }, [found]);

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
          placeholder={t`Words, "in a row", either OR other, -without`}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Escape") setTyped("");
            else keys(event);
          }}
          slotProps={{
            htmlInput: { "aria-label": t`Search the transcripts` },
            input: {
              startAdornment: (
                <InputAdornment position="start">
                  <Icons.Search />
                </InputAdornment>
              ),
            },
          }}
        />
        <Saved address={address} />
        <ReviewsLink address={address} />
        <Exports address={address} words={words} total={total} more={more} />
      </header>
      <Narrow address={address} change={change} />
      <section className="found" aria-label={t`Chats found`} onKeyDown={keys}>
        <Behind seconds={choices?.behind} />
        {choices?.loading ? <Loading done={choices.loading.done} total={choices.loading.total} /> : null}
        <p className="total" role="status">
          <span>
            {found.isPending || found.isPlaceholderData
              ? t`Searching`
              : more
                ? t`more than ${count(total)} chats`
                : narrowed
                  ? plural(total, { one: "# chat matches", other: "# chats match" })
                  : plural(total, { one: "# chat", other: "# chats" })}
          </span>
          <button className="order" onClick={() => change({ oldest: oldest ? "" : "1" })}>
            {oldest ? t`oldest first` : t`newest first`}
          </button>
        </p>
        {(pages[0]?.gone ?? 0) > 0 ? (
          <p className="total">
            {plural(pages[0]?.gone ?? 0, {
              one: "# more was deleted since; reports still count it",
              other: "# more were deleted since; reports still count them",
            })}
          </p>
        ) : null}
        {found.isError ? <LoadTrouble error={found.error} again={() => void found.refetch()} /> : null}
        {found.isSuccess && !found.isPlaceholderData && hits.length === 0 ? (
          <div className="nothing-found">
            {narrowed ? (
              <p>
                <Trans>
                  No chat matches. Try fewer words, only the beginning of a word, or take a filter away.
                </Trans>
              </p>
            ) : (
              <p>
                <Trans>No transcripts yet. When a chat ends, its transcript appears here.</Trans>
              </p>
            )}
          </div>
        ) : null}
        {found.isError ? null : (
          <VirtualList
            label={t`Chats found`}
            items={hits}
            keyOf={(hit) => hit.chat.id}
            height={86}
            onEnd={fetchMore}
            draw={(hit) => <Hit hit={hit} search={search} />}
          />
        )}
        {found.isFetchingNextPage ? (
          <p className="total">
            <Trans>Loading more</Trans>
          </p>
        ) : null}
      </section>
      {id ? (
        <Reader key={id} id={id} terms={terms} at={Number(address.get("at")) || undefined} />
      ) : (
        <NoneOpen any={hits.length > 0} />
      )}
    </main>
  );
}

function Hit({ hit, search }: { hit: TranscriptHit; search: string }) {
  const { chat } = hit;
  return (
    <NavLink to={{ pathname: `/transcripts/${chat.id}`, search }}>
      <span className="row">
        <b className="cut">
          <bdi>{chat.name ? <Marked pieces={hit.name} /> : t`Visitor`}</bdi>
        </b>
        <time dateTime={chat.startedAt}>{dayAndTime(chat.startedAt)}</time>
      </span>
      <span className="excerpt" dir="auto">
        {hit.noted ? (
          <i>
            <Trans>Note:</Trans>{" "}
          </i>
        ) : null}
        <Marked pieces={hit.excerpt} />
      </span>
      <span className="row meta">
        <span className="cut">
          {[
            chat.departmentName,
            chat.ownerName ?? t`nobody`,
            chat.feedback ? ratingWords(chat.feedback.rating) : "",
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
        {chat.ending === "missed" ? (
          <span className="missed">
            <Icons.Warning /> <Trans>missed</Trans>
          </span>
        ) : (
          <span>
            {chat.ending === "message" ? <Icons.Letter /> : <Icons.Check />}{" "}
            {chat.outcome || endingWords(chat.ending ?? "answered")}
          </span>
        )}
      </span>
    </NavLink>
  );
}

function NoneOpen({ any }: { any: boolean }) {
  return (
    <section className="reader none">
      <p>{any ? t`Choose a chat on the left to read it. Arrow keys go through the list.` : ""}</p>
    </section>
  );
}
