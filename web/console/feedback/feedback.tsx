import "./feedback.css";
import "../transcripts/transcripts.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { NavLink, useParams } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { RatedChat } from "../../shared/types";
import { useMe, useTeam } from "../desk/provider";
import { Tick } from "../kit/choice";
import { DateField } from "../kit/date-field";
import { useAddress } from "../kit/address";
import { usePageTitle } from "../kit/page-title";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";
import { VirtualList } from "../kit/virtual-list";
import { Reader } from "../transcripts/reader";
import { ratingWords } from "../words/codes";
import { CloseRating } from "./close-rating";
import { Totals } from "./totals";
import { nameOf } from "../desk/name-of";

/** What visitors said of chats after them: what it adds up to, each with its words, and the transcript. */
export default function FeedbackPage() {
  usePageTitle(t`Feedback`);
  const me = useMe();
  const { id } = useParams();
  const [address, set] = useAddress();
  const departments = useTeam((s) => s.departments);
  const operators = useTeam((s) => s.operators);
  const of = (name: string) => address.get(name) ?? "";
  const asked = {
    ...(of("from") ? { from: of("from") } : {}),
    ...(of("to") ? { to: of("to") } : {}),
    ...(of("department") ? { department: of("department") } : {}),
    ...(of("operator") ? { operator: of("operator") } : {}),
    rating: Number(of("rating")) || 0,
    words: of("words") === "1",
    toRead: of("toRead") === "1",
  };
  const found = useInfiniteQuery({
    queryKey: ["feedback", asked],
    initialPageParam: {} as { nextRatedAt?: string; nextId?: string },
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/feedback", {
          params: { query: { ...asked, ...pageParam, totals: pageParam.nextId === undefined } },
        }),
      ),
    getNextPageParam: (page) =>
      page.nextId ? { nextRatedAt: page.nextRatedAt ?? "", nextId: page.nextId } : undefined,
    placeholderData: keepPreviousData,
  });
  const list = found.data?.pages.flatMap((p) => p.said) ?? [];
  const summary = found.data?.pages[0]?.summary;
  // One that is not in the list, as after a link to it, is read all the same.
  const script = useQuery({
    queryKey: ["script", id],
    queryFn: () => ask(api.GET("/api/chats/{id}", { params: { path: { id: id ?? "" } } })),
    enabled: id !== undefined,
  });
  const open = list.find((s) => s.chat.id === id)?.chat ?? script.data?.chat;
  const filtered = address.size > 0;
  return (
    <main className="transcripts feedback">
      <header>
        <h1>
          <Trans>Feedback</Trans>
        </h1>
        <span className="period">
          <Trans>Ended from</Trans>
          <DateField label={t`Ended from`} value={of("from")} change={(from) => set({ from })} />
          <Trans>to</Trans>
          <DateField label={t`Ended to`} value={of("to")} change={(to) => set({ to })} />
        </span>
        <Select
          label={t`Department`}
          value={of("department")}
          change={(department) => set({ department })}
          options={[
            { value: "", label: t`All departments` },
            ...departments.map((d) => ({ value: d.id, label: d.name })),
          ]}
        />
        {me.role === "operator" ? null : (
          <Select
            label={t`Operator`}
            value={of("operator")}
            change={(operator) => set({ operator })}
            options={[
              { value: "", label: t`Everybody` },
              ...operators.map((o) => ({ value: o.id, label: o.name })),
            ]}
          />
        )}
        <Tick checked={asked.words} change={(on) => set({ words: on ? "1" : "" })}>
          <Trans>With words</Trans>
        </Tick>
        <Tick checked={asked.toRead} change={(on) => set({ toRead: on ? "1" : "" })}>
          <Trans>To read</Trans>
        </Tick>
      </header>
      <section className="found" aria-label={t`What visitors said`}>
        {found.isError ? <LoadTrouble error={found.error} again={() => void found.refetch()} /> : null}
        {summary ? (
          <Totals
            summary={summary}
            rating={asked.rating}
            choose={(rating) => set({ rating: rating ? String(rating) : "" })}
          />
        ) : null}
        <div className="scroll">
          {found.isSuccess && list.length === 0 ? (
            <div className="nothing-found">
              <p>
                {filtered
                  ? t`Nothing was said that fits these filters.`
                  : me.role === "operator"
                    ? t`Nobody has rated a chat of yours yet.`
                    : t`Nobody has rated a chat yet. Visitors are asked when an answered chat ends; Setup, Widgets says what.`}
              </p>
            </div>
          ) : null}
          <VirtualList
            label={t`What visitors said`}
            items={list}
            keyOf={(s) => s.chat.id}
            height={86}
            onEnd={() => {
              if (found.hasNextPage && !found.isFetchingNextPage) void found.fetchNextPage();
            }}
            draw={(s) => <Row said={s} search={address.toString()} />}
          />
        </div>
      </section>
      {id ? (
        <div className="reading">
          {me.role !== "operator" && open?.feedback?.toRead ? (
            <CloseRating key={`${open.id} ${open.feedback.number}`} chat={open} feedback={open.feedback} />
          ) : null}
          <Reader key={id} id={id} terms={[]} />
        </div>
      ) : (
        <section className="reader none">
          <p>{list.length > 0 ? t`Choose one on the left to read the chat.` : ""}</p>
        </section>
      )}
    </main>
  );
}

function Row({ said, search }: { said: RatedChat; search: string }) {
  const { chat } = said;
  const feedback = chat.feedback;
  if (!feedback) return null;
  return (
    <NavLink to={{ pathname: `/feedback/${chat.id}`, search }}>
      <span className="row">
        <b className={feedback.rating <= 2 ? "low" : ""}>{ratingWords(feedback.rating)}</b>
        <time dateTime={feedback.at}>{dayAndTime(feedback.at)}</time>
      </span>
      <span className="excerpt" dir="auto">
        {feedback.words || <i>{t`No words`}</i>}
      </span>
      <span className="row meta">
        <span className="cut">
          <bdi>{nameOf(chat)}</bdi> · {chat.ownerName ?? t`nobody`}
        </span>
        <span>
          {feedback.toRead ? t`to read` : feedback.readBy ? t`read by ${feedback.readBy}` : said.widgetName}
        </span>
      </span>
    </NavLink>
  );
}
