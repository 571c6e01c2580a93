import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, type KeyboardEvent } from "react";
import { Link, NavLink, useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime, firstName } from "../../shared/format";
import type { ReviewView } from "../../shared/types";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Choice } from "../kit/choice";
import { LoadTrouble, Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";
import { Reader } from "../transcripts/reader";
import { pointsWords, scoreWords, type Score } from "./words";
import { nameOf } from "../desk/name-of";

const scores: Score[] = ["yes", "partly", "no", "none"];

/** The chats of a draw, one after the other: the list, the chat, and what the lead says of it. */
export function Reading({ draw, id }: { draw: string; id: string | undefined }) {
  const navigate = useNavigate();
  const found = useQuery({
    queryKey: ["reviews", draw],
    queryFn: () => ask(api.GET("/api/review-draws/{id}", { params: { path: { id: draw } } })),
  });
  const list = found.data ?? [];
  const open = list.find((r) => r.id === id) ?? list.find((r) => !r.sentAt) ?? list[0];
  const to = (r: ReviewView | undefined) => {
    if (r) void navigate(`/reviews/${draw}/${r.id}`);
  };
  const go = (by: number) => to(list[list.findIndex((r) => r.id === open?.id) + by]);
  const keys = (event: KeyboardEvent) => {
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    event.preventDefault();
    go(event.key === "ArrowDown" ? 1 : -1);
  };
  const next = () => {
    const at = list.findIndex((r) => r.id === open?.id);
    to([...list.slice(at + 1), ...list.slice(0, at)].find((r) => !r.sentAt) ?? list[at + 1]);
  };
  if (found.isError) return <LoadTrouble error={found.error} again={() => void found.refetch()} />;
  return (
    <main className="reading">
      <section className="found" aria-label={t`Chats drawn`} onKeyDown={keys}>
        <p className="total">
          <Link to="/reviews">
            <Trans>All reviews</Trans>
          </Link>{" "}
          <span role="status">{t`${list.filter((r) => r.sentAt).length} of ${list.length} reviewed`}</span>
        </p>
        {list.map((r) => (
          <NavLink
            key={r.id}
            to={`/reviews/${draw}/${r.id}`}
            aria-current={r.id === open?.id ? "page" : undefined}
          >
            <span className="row">
              <b className="cut">
                <bdi>{nameOf(r.chat)}</bdi>
              </b>
              <time dateTime={r.chat.startedAt}>{dayAndTime(r.chat.startedAt)}</time>
            </span>
            <span className="row meta">
              <span className="cut">{r.operatorName}</span>
              {r.sentAt ? (
                <span>
                  <Icons.Check /> {pointsWords(r)}
                </span>
              ) : (
                <Trans>to read</Trans>
              )}
            </span>
          </NavLink>
        ))}
        {found.isSuccess && list.length === 0 ? (
          <p className="nothing-found">
            <Trans>Nothing is left of this draw.</Trans>
          </p>
        ) : null}
      </section>
      {open ? (
        <>
          <Reader key={open.chat.id} id={open.chat.id} terms={[]} />
          <Said key={open.id} review={open} next={next} go={go} />
        </>
      ) : null}
    </main>
  );
}

interface SaidProps {
  review: ReviewView;
  next: () => void;
  go: (by: number) => void;
}

/** What the lead says of a chat. */
function Said({ review, next, go }: SaidProps) {
  const queries = useQueryClient();
  const saving = useSaving();
  const form = useQuery({ queryKey: ["reviews", "form"], queryFn: () => ask(api.GET("/api/review-form")) });
  const { version, scores: kept, words } = review;
  const editing = useEditing(`review.${review.id}`, { version, scores: kept, words });
  const { value } = editing;
  const section = useRef<HTMLElement>(null);
  // The keyboard goes on where it was: from one chat's first point to the next one's.
  useEffect(() => section.current?.querySelector("input")?.focus(), [form.data]);
  // Points of then are shown of what was scored by others.
  const points = kept.length > 0 && review.sentAt ? kept.map((s) => s.point) : (form.data?.points ?? []);
  const scoreOf = (point: string) => value.scores.find((s) => s.point === point)?.score;
  const set = (point: string, score: Score) => {
    saving.clear();
    editing.change({
      scores: points.flatMap((p) => {
        const now = p === point ? score : scoreOf(p);
        return now ? [{ point: p, score: now }] : [];
      }),
    });
  };
  const save = async (send: boolean) => {
    const name = firstName(review.operatorName);
    const done = await saving.run(
      async () => {
        const saved = await ask(
          api.PUT("/api/reviews/{id}", { params: { path: { id: review.id } }, body: { ...value, send } }),
        );
        editing.saved({ version: saved.version, scores: saved.scores, words: saved.words });
        await queries.invalidateQueries({ queryKey: ["reviews"] });
      },
      send ? t`Sent to ${name}` : t`Kept; ${name} does not see it yet`,
    );
    if (done && send) next();
  };
  const keys = (event: KeyboardEvent) => {
    if ((event.ctrlKey || event.metaKey) && event.key === "Enter") {
      event.preventDefault();
      void save(true);
      return;
    }
    if (event.altKey || event.ctrlKey || event.metaKey || event.target instanceof HTMLTextAreaElement) return;
    const score = scores[Number(event.key) - 1];
    const group = (event.target as HTMLElement).closest<HTMLElement>("[data-point]");
    if (event.key === "PageDown" || event.key === "PageUp") {
      event.preventDefault();
      go(event.key === "PageDown" ? 1 : -1);
    } else if (score && group) {
      event.preventDefault();
      set(group.dataset.point ?? "", score);
      const all = [...(section.current?.querySelectorAll<HTMLElement>("[data-point]") ?? [])];
      const following = all[all.indexOf(group) + 1];
      (following?.querySelector<HTMLElement>("input") ?? section.current?.querySelector("textarea"))?.focus();
    }
  };
  return (
    <section ref={section} className="said" aria-label={t`Your review`} onKeyDown={keys}>
      <div className="body">
        <h2>{t`For ${review.operatorName}`}</h2>
        {points.map((point) => (
          <div key={point} data-point={point}>
            <h3>{point}</h3>
            <Choice
              label={point}
              value={scoreOf(point)}
              options={scores.map((score) => ({ value: score, words: scoreWords(score) }))}
              change={(score) => set(point, score)}
            />
          </div>
        ))}
        <TextField
          multiline
          fullWidth
          minRows={4}
          value={value.words}
          placeholder={t`What went well, what to try next time`}
          onChange={(e) => {
            saving.clear();
            editing.change({ words: e.target.value });
          }}
          slotProps={{ htmlInput: { "aria-label": t`Words to ${review.operatorName}`, dir: "auto" } }}
        />
        <Wrong words={saving.wrongAt("words")} />
        {review.sentAt ? (
          <p className="hint">
            {review.seenAt
              ? t`Sent by ${review.by ?? ""} on ${dayAndTime(review.sentAt)}, read on ${dayAndTime(review.seenAt)}.`
              : t`Sent by ${review.by ?? ""} on ${dayAndTime(review.sentAt)}, not read yet.`}
          </p>
        ) : null}
        {review.answer ? (
          <blockquote dir="auto">
            <b>{review.operatorName}</b>
            <br />
            {review.answer}
          </blockquote>
        ) : null}
        <p className="hint">
          <Trans>
            Keys: 1 met, 2 partly, 3 not met, 4 does not apply; Ctrl+Enter sends and goes on; Page Down is the
            next chat. Visitors never see any of this.
          </Trans>
        </p>
      </div>
      {editing.theirs ? (
        <SaveBar saving={saving} editing={editing} save={() => void save(false)} />
      ) : (
        <footer>
          <Wrong words={saving.trouble} />
          {review.sentAt ? null : (
            <Button disabled={!editing.changed || saving.busy} onClick={() => void save(false)}>
              <Trans>Keep for later</Trans>
            </Button>
          )}
          <Button
            variant="contained"
            disabled={saving.busy || (!editing.changed && review.sentAt !== undefined)}
            onClick={() => void save(true)}
          >
            {t`Send to ${firstName(review.operatorName)}`}
          </Button>
        </footer>
      )}
    </section>
  );
}
