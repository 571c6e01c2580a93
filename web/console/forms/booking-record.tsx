import "./booking-record.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";

import { wordsFor } from "../../shared/problem";
import type { RecordView } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";

interface Props {
  /** Whose record it is; another key is asked for anew. */
  of: readonly string[];
  ask: () => Promise<RecordView>;
  /** Adds them as a customer; left out where that cannot be done. */
  add?: () => Promise<RecordView>;
  /** What was known of them when the system was last reached. */
  lastKnown: Record<string, string> | undefined;
  frame: (children: ReactNode) => ReactNode;
}

// How often it is looked whether the record has changed.
const every = 60_000;

/** What the booking system says of somebody; it may be away, or not know them. */
export function BookingRecord({ of, ask, add, lastKnown, frame }: Props) {
  const record = useQuery({
    queryKey: ["record", ...of],
    queryFn: ask,
    staleTime: 15_000,
    refetchInterval: every,
  });
  const [busy, setBusy] = useState(false);
  // What went wrong with one person is not said of the next.
  const whose = of.join();
  const [failed, setFailed] = useState({ whose, words: "" });
  const trouble = failed.whose === whose ? failed.words : "";
  const kept = Object.entries(lastKnown ?? {});
  const data = record.data;
  if (data?.state === "none" && kept.length === 0) return null;
  if (data?.state === "no-email" && kept.length === 0) return null;
  const away = record.isError || data?.state === "away";
  const addNow = () => {
    if (busy || !add) return;
    setBusy(true);
    setFailed({ whose, words: "" });
    add()
      .then(
        () => record.refetch(),
        (error: unknown) => setFailed({ whose, words: wordsFor(error) }),
      )
      .finally(() => setBusy(false));
  };
  return frame(
    <div className="record" aria-busy={record.isPending}>
      {away ? (
        <p className="away" role="status">
          <Icons.Lost />{" "}
          {record.isError ? wordsFor(record.error) : t`The booking system cannot be reached right now.`}{" "}
          <button className="link" onClick={() => void record.refetch()}>
            <Trans>Try again</Trans>
          </button>
        </p>
      ) : null}
      {data?.state === "known" ? (
        <>
          {data.claimed ? (
            <p className="claimed">
              <Trans>found by an email that is not verified</Trans>
            </p>
          ) : null}
          <Facts list={data.fields.map((f) => [f.label, f.value])} />
          {data.link ? (
            <a className="open" href={data.link} target="_blank" rel="noopener noreferrer">
              <Trans>Open the record</Trans>
            </a>
          ) : null}
        </>
      ) : kept.length > 0 ? (
        <>
          {away ? (
            <p className="meta">
              <Trans>Last known:</Trans>
            </p>
          ) : null}
          <Facts list={kept} />
        </>
      ) : null}
      {data?.state === "unknown" ? (
        <>
          <p className="nothing">
            <Trans>The booking system does not know this email.</Trans>
          </p>
          {add ? (
            <Button variant="outlined" disabled={busy} onClick={addNow}>
              <Trans>Add as a customer</Trans>
            </Button>
          ) : null}
        </>
      ) : null}
      {trouble ? (
        <p className="wrong" role="alert">
          {trouble}
        </p>
      ) : null}
    </div>,
  );
}

function Facts({ list }: { list: [string, string][] }) {
  return (
    <dl className="facts">
      {list.map(([name, value]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd dir="auto">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
