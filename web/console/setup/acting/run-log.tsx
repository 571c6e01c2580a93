import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useInfiniteQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { api, ask } from "../../../shared/api";
import { dayAndTime } from "../../../shared/format";
import { wordsFor } from "../../../shared/problem";
import { Button } from "../../kit/button";
import { resultWords } from "./words";

const page = 50;
const lookEvery = 5000;

/** What a rule did, the latest first. */
export function RunLog({ ruleId }: { ruleId: string }) {
  const log = useInfiniteQuery({
    queryKey: ["acting-runs", ruleId],
    queryFn: ({ pageParam }) =>
      ask(api.GET("/api/setup/acting/runs", { params: { query: { rule: ruleId, before: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < page ? undefined : last.at(-1)?.seq),
    refetchInterval: lookEvery,
  });
  const all = log.data?.pages.flat() ?? [];
  return (
    <>
      <h3>
        <Trans>What it did</Trans>
      </h3>
      {log.isError ? <p className="wrong">{wordsFor(log.error)}</p> : null}
      {log.isSuccess && all.length === 0 ? (
        <p className="nothing">
          <Trans>Nothing yet.</Trans>
        </p>
      ) : null}
      <ul className="runs">
        {all.map((r) => (
          <li key={r.seq}>
            <Link to={r.over ? `/transcripts/${r.chatId}` : `/desk?chat=${r.chatId}`}>
              {r.visitor || t`Visitor`}
            </Link>
            <span className="meta">{dayAndTime(r.at)}</span>
            <span>{r.results.map(resultWords).join(" · ")}</span>
          </li>
        ))}
      </ul>
      {log.hasNextPage ? (
        <Button onClick={() => void log.fetchNextPage()}>
          <Trans>Earlier ones</Trans>
        </Button>
      ) : null}
    </>
  );
}
