import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { UseQueryResult } from "@tanstack/react-query";
import type { ReactNode } from "react";

import type { Report } from "../../shared/types";
import { clock } from "../../shared/format";
import { useChoices } from "../filters/choices";
import { Icons } from "../icons";
import { LoadTrouble } from "../kit/states";
import { count } from "./figures";

interface Props {
  report: UseQueryResult<Report>;
  children: (report: Report) => ReactNode;
}

/** Draws a report when it is there, and says what stands in the way until then. */
export function Loaded({ report, children }: Props) {
  const choices = useChoices();
  if (report.isError) return <LoadTrouble error={report.error} again={() => void report.refetch()} />;
  if (!report.data) return <section className="sheet waiting" aria-busy="true" />;
  const { total, loading } = report.data;
  return (
    <>
      <Behind seconds={choices?.behind} />
      {loading ? <Loading done={loading.done} total={loading.total} /> : null}
      {total.chats > 0 && total.chats < 10 ? (
        <p className="notice" role="status">
          <Trans>
            These are {count(total.chats)} chats: too few for shares and middles to mean much. They are shown
            as counts.
          </Trans>
        </p>
      ) : null}
      <div className={report.isPlaceholderData ? "stale" : ""} aria-busy={report.isPlaceholderData}>
        {total.chats === 0 ? (
          <p className="notice" role="status">
            <Trans>No chat fits. Choose another period, or fewer filters.</Trans>
          </p>
        ) : (
          children(report.data)
        )}
      </div>
    </>
  );
}

/** Says that chats are being taken in, and how far it is. */
export function Loading({ done, total }: { done: number; total: number }) {
  return (
    <div className="notice loading" role="status">
      <progress value={done} max={total} aria-label={t`Chats taken in`} />
      <span>
        <Trans>
          {count(done)} of {count(total)} chats of the past are there. Figures grow until all are.
        </Trans>
      </span>
    </div>
  );
}

/** From how many seconds on it is said that a copy of the database is behind. */
const worthSaying = 5;

/** Says that what is searched and counted is a copy of the database that is behind. */
export function Behind({ seconds }: { seconds: number | undefined }) {
  if (seconds === undefined || seconds < worthSaying) return null;
  return (
    <p className="notice" role="status">
      <Icons.Hourglass />{" "}
      <Trans>
        The database copy that is read here is {clock(seconds * 1000)} behind. What happened since is not in
        it yet.
      </Trans>
    </p>
  );
}
