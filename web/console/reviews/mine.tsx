import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { ReviewView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Button } from "../kit/button";
import { LoadTrouble, Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";
import { useMine } from "./link";
import { pointsWords, scoreWords } from "./words";
import { nameOf } from "../desk/name-of";

/** What leads said of my chats. */
export function Mine() {
  const mine = useMine();
  return (
    <main className="reviews">
      <header>
        <h1>
          <Trans>Reviews of my chats</Trans>
        </h1>
      </header>
      {mine.isError ? <LoadTrouble error={mine.error} again={() => void mine.refetch()} /> : null}
      {mine.data?.length === 0 ? (
        <p className="nothing">
          <Trans>Nobody has reviewed a chat of yours yet. When a lead does, you read it here.</Trans>
        </p>
      ) : null}
      {(mine.data ?? []).map((r) => (
        <OneOfMine key={`${r.id} ${r.version}`} review={r} />
      ))}
    </main>
  );
}

function OneOfMine({ review: r }: { review: ReviewView }) {
  const queries = useQueryClient();
  // Whoever turns to a chat in the middle of it finds it again.
  const [typed, setTyped, letGo] = useKept(`stoop.review-answer.${r.id}`);
  const words = typed ?? "";
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const answer = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      await ask(api.POST("/api/reviews/{id}/answer", { params: { path: { id: r.id } }, body: { words } }));
      letGo(typed);
      await queries.invalidateQueries({ queryKey: ["reviews"] });
    } catch (error) {
      setTrouble(wordsFor(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <article
      className={r.seenAt ? "mine" : "mine unread"}
      aria-label={t`Review of ${r.chat.name || t`a visitor`}`}
    >
      <h2>
        <Link to={`/transcripts/${r.chat.id}`}>
          <bdi>{nameOf(r.chat)}</bdi>, {dayAndTime(r.chat.startedAt)}
        </Link>
        {r.seenAt ? null : (
          <span className="count new">
            <Trans>new</Trans>
          </span>
        )}
      </h2>
      <p className="meta">
        {[r.by, r.sentAt ? dayAndTime(r.sentAt) : "", r.of > 0 ? pointsWords(r) : ""]
          .filter(Boolean)
          .join(" · ")}
      </p>
      {r.words ? <blockquote dir="auto">{r.words}</blockquote> : null}
      {r.scores.length > 0 ? (
        <ul>
          {r.scores.map((s) => (
            <li key={s.point}>
              {s.point}: <b>{scoreWords(s.score)}</b>
            </li>
          ))}
        </ul>
      ) : null}
      {r.answer ? (
        <p dir="auto">
          <b>
            <Trans>You answered:</Trans>
          </b>{" "}
          {r.answer}
        </p>
      ) : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void answer();
          }}
        >
          <TextField
            multiline
            fullWidth
            size="small"
            value={words}
            placeholder={t`Answer, if you like`}
            onChange={(e) => setTyped(e.target.value || null)}
            slotProps={{ htmlInput: { "aria-label": t`Answer to ${r.by ?? ""}`, dir: "auto" } }}
          />
          <Button
            type="submit"
            variant="outlined"
            disabled={busy || (r.seenAt !== undefined && words.trim() === "")}
          >
            {words.trim() ? t`Answer` : t`I have read it`}
          </Button>
        </form>
      )}
      <Wrong words={trouble} />
    </article>
  );
}
