import "./low-ratings.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { ratingWords } from "../words/codes";
import { nameOf } from "../desk/name-of";

const shown = 3;

/** A lead's part of the line: low ratings that nobody who leads has closed. */
export default function LowRatings() {
  const found = useQuery({
    queryKey: ["feedback", "low"],
    queryFn: () => ask(api.GET("/api/feedback", { params: { query: { toRead: true } } })),
  });
  const count = found.data?.toRead ?? 0;
  if (count === 0) return null;
  return (
    <section aria-labelledby="low-head" className="low-ratings">
      <header>
        <h2 id="low-head">
          <Trans>Low ratings to read</Trans>
        </h2>
        <span className="count">{count}</span>
        {count > shown ? (
          <Link to="/feedback?toRead=1">
            <Trans>All</Trans>
          </Link>
        ) : null}
      </header>
      <ul aria-label={t`Low ratings to read`}>
        {(found.data?.said ?? []).slice(0, shown).map(({ chat }) => (
          <li key={chat.id}>
            <Link to={`/feedback/${chat.id}?toRead=1`}>
              <span className="row">
                <span className="name cut">
                  <bdi>{nameOf(chat)}</bdi>
                </span>
                <b className="low">{ratingWords(chat.feedback?.rating ?? 0)}</b>
              </span>
              {chat.feedback?.words ? (
                <span className="ask cut" dir="auto">
                  {chat.feedback.words}
                </span>
              ) : null}
              <span className="row meta">
                <span className="cut">{chat.ownerName ?? t`nobody`}</span>
                <time dateTime={chat.feedback?.at}>{dayAndTime(chat.feedback?.at ?? chat.startedAt)}</time>
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
