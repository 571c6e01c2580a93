import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../../shared/api";
import { dayAndTime } from "../../../shared/format";
import { wordsFor } from "../../../shared/problem";
import type { DeliveryView } from "../../../shared/types";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { say, sayTrouble } from "../../kit/say";
import { Select } from "../../kit/select";
import { eventWords } from "./events";

type Which = "all" | "waiting" | "failed";

const page = 50;
const lookEvery = 5000;

/** What a webhook was or is to be told, the latest first: to be read, and sent again. */
export function DeliveryLog({ webhookId }: { webhookId: string }) {
  const queries = useQueryClient();
  const [which, setWhich] = useState<Which>("all");
  const [open, setOpen] = useState("");
  const log = useInfiniteQuery({
    queryKey: ["deliveries", webhookId, which],
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/webhooks/{id}/deliveries", {
          params: { path: { id: webhookId }, query: { which, before: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length < page ? undefined : last.at(-1)?.seq),
    refetchInterval: lookEvery,
  });
  const again = (id: string) => {
    ask(api.POST("/api/webhook-deliveries/{id}/again", { params: { path: { id } } })).then(() => {
      say(t`It is sent again`, "success");
      void queries.invalidateQueries({ queryKey: ["deliveries", webhookId] });
    }, sayTrouble);
  };
  const all = log.data?.pages.flat() ?? [];
  return (
    <>
      <h3 className="row">
        <Trans>Log</Trans>
        <Select
          bare
          label={t`What is shown`}
          value={which}
          change={(v) => setWhich(v as Which)}
          options={[
            { value: "all", label: t`everything` },
            { value: "waiting", label: t`waiting` },
            { value: "failed", label: t`given up` },
          ]}
        />
      </h3>
      {log.isError ? <p className="wrong">{wordsFor(log.error)}</p> : null}
      {log.isSuccess && all.length === 0 ? (
        <p className="nothing">
          <Trans>Nothing here.</Trans>
        </p>
      ) : null}
      <ul className="deliveries">
        {all.map((d) => (
          <li key={d.id}>
            <button
              type="button"
              className="told"
              aria-expanded={open === d.id}
              onClick={() => setOpen(open === d.id ? "" : d.id)}
            >
              {d.failed ? <Icons.Warning /> : d.doneAt ? <Icons.Check /> : <Icons.Hourglass />}
              <b>{nameOf(d)}</b>
              <span>{dayAndTime(d.createdAt)}</span>
              <span className="meta">{stateOf(d)}</span>
            </button>
            {open === d.id ? (
              <div className="delivery">
                {d.answer ? <p dir="auto">{d.answer}</p> : null}
                <pre>{pretty(d.body)}</pre>
                {d.chatId ? (
                  <Button variant="outlined" onClick={() => again(d.id)}>
                    <Trans>Send again</Trans>
                  </Button>
                ) : null}
              </div>
            ) : null}
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

function nameOf(d: DeliveryView): string {
  if (d.kind === "test") return t`Test`;
  if (d.kind === "rule.acted") return t`A rule acted`;
  return eventWords.find((e) => e.kind === d.kind)?.words ?? d.kind;
}

/** How it went, or when it goes. */
function stateOf(d: DeliveryView): string {
  if (d.failed) return d.status ? t`given up, answered ${d.status}` : t`given up, no answer`;
  if (d.doneAt) return t`arrived, answered ${d.status ?? 0}`;
  if (d.tries === 0) return t`waiting`;
  const when = d.nextAt ? dayAndTime(d.nextAt) : "";
  return plural(d.tries, { one: `tried once, again ${when}`, other: `tried # times, again ${when}` });
}

function pretty(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body;
  }
}
