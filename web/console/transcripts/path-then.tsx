import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { clock } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { Path } from "../guests/path";

/** What the visitor had looked at when they wrote, asked for when it is opened. */
export function PathThen({ chat }: { chat: ChatView }) {
  const [open, setOpen] = useState(false);
  const path = useQuery({
    queryKey: ["chat-path", chat.id],
    queryFn: () => ask(api.GET("/api/chats/{id}/path", { params: { path: { id: chat.id } } })),
    enabled: open,
    staleTime: 60_000,
  });
  const visit = path.data?.visit;
  return (
    <details className="path-then" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>
        <Trans>What they looked at</Trans>
      </summary>
      {path.isError ? <p>{wordsFor(path.error)}</p> : null}
      {path.isSuccess && !visit ? (
        <p>
          <Trans>It is not known: nothing was collected, or it is not kept any more.</Trans>
        </p>
      ) : null}
      {visit ? (
        <>
          <p>
            {plural(visit.pages, { one: "# page", other: "# pages" })},{" "}
            {t`${clock(visit.attended)} attended to`}
            {visit.place ? `, ${visit.place}` : ""}
          </p>
          <Path views={visit.path} />
        </>
      ) : null}
    </details>
  );
}
