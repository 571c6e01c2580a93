import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import { Icons } from "../icons";
import { IconButton } from "../kit/button";
import { outcomeWords } from "./outcome-words";
import { useDeskStore, useMe } from "./provider";
import { Script } from "./script";
import type { Beside } from "./store/stores";

/** An earlier chat of the same person, to read beside the one in use. Nothing can be written here. */
export default function EarlierChat({ beside }: { beside: Beside }) {
  const store = useDeskStore();
  const me = useMe();
  const script = useQuery({
    queryKey: ["script", beside.id, beside.of],
    queryFn: () =>
      ask(api.GET("/api/chats/{id}", { params: { path: { id: beside.id }, query: { beside: beside.of } } })),
  });
  const chat = script.data?.chat;
  return (
    <section className="lane earlier-chat" aria-label={t`Earlier chat`}>
      <header className="lane-head">
        <div className="row">
          <h2 className="cut">
            <Trans>Earlier chat</Trans>
          </h2>
          <IconButton
            size="small"
            aria-label={t`Close the earlier chat`}
            onClick={() => store.screen.readBeside(undefined)}
          >
            <Icons.Close />
          </IconButton>
        </div>
        <div className="row place">
          <span className="cut">
            {chat ? `${dayAndTime(chat.startedAt)} · ${chat.ownerName ?? t`not answered`}` : t`Loading`}
          </span>
          <span className="cut">{chat ? outcomeWords(chat) : ""}</span>
        </div>
      </header>
      {script.isError ? (
        <p className="nothing" role="alert">
          {wordsFor(script.error)}
        </p>
      ) : null}
      {chat && script.data ? (
        <Script
          chat={chat}
          log={{ events: script.data.events, last: chat.last }}
          unsent={[]}
          meId={me.id}
          visitorHere
        />
      ) : null}
    </section>
  );
}
