import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import type { AnswerAgain, QuestionAgain } from "../../shared/types";
import { useTeam } from "../desk/provider";
import { useBeginNew } from "../forms/editing";
import { Icons } from "../icons";
import { useAddress } from "../kit/address";
import { Button } from "../kit/button";
import { LinearProgress } from "../kit/progress";
import { say } from "../kit/say";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";
import { freshArticle } from "./articles";
import { freshCanned } from "./canned-form";

/** For leads: what is typed and asked again and again, each one click away from being stored. */
export function SaidAgainPage() {
  const departments = useTeam((s) => s.departments);
  const [address, change] = useAddress();
  const days = Number(address.get("days")) || 90;
  const department = address.get("department") ?? "";
  const found = useQuery({
    queryKey: ["said-again", days, department],
    queryFn: () =>
      ask(api.GET("/api/said-again", { params: { query: { days, ...(department ? { department } : {}) } } })),
    placeholderData: keepPreviousData,
    staleTime: 5 * 60_000,
  });
  const store = useStore();
  return (
    <section className="editor again" aria-label={t`Said again`}>
      <header>
        <h2>
          <Trans>Said again</Trans>
        </h2>
        <div className="choose">
          <Select
            label={t`Chats of the last`}
            value={`${days}`}
            options={[30, 90, 365].map((n) => ({
              value: `${n}`,
              label: plural(n, { one: "# day", other: "# days" }),
            }))}
            change={(value) => change({ days: value })}
          />
          <Select
            label={t`Department`}
            value={department}
            options={[
              { value: "", label: t`All departments` },
              ...departments.map((d) => ({ value: d.id, label: d.name })),
            ]}
            change={(value) => change({ department: value })}
          />
        </div>
      </header>
      <div className="body">
        {found.isFetching && (found.isPlaceholderData || !found.data) ? (
          <>
            <LinearProgress aria-label={t`Looking through the chats`} />
            <p className="meta">
              <Trans>Looking through the chats. That can take a few seconds.</Trans>
            </p>
          </>
        ) : null}
        {found.isError ? <LoadTrouble error={found.error} again={() => void found.refetch()} /> : null}
        {found.data ? (
          <>
            <h3>
              <Trans>Answers typed again and again</Trans>
            </h3>
            <p className="meta">
              {[
                plural(found.data.chats, { one: "# chat looked through", other: "# chats looked through" }),
                found.data.cut ? t`only the latest ones` : "",
                found.data.stored > 0
                  ? plural(found.data.stored, {
                      one: "# more is a canned response already",
                      other: "# more are canned responses already",
                    })
                  : "",
              ]
                .filter(Boolean)
                .join(" · ")}
            </p>
            {found.data.answers.length === 0 ? (
              <p>
                <Trans>Nothing that is typed often is missing from the canned responses.</Trans>
              </p>
            ) : null}
            <ol>
              {found.data.answers.map((a) => (
                <Answer key={a.text} answer={a} store={store} />
              ))}
            </ol>
            <h3>
              <Trans>Questions that nothing stored answers</Trans>
            </h3>
            <p className="meta">
              {found.data.answered > 0
                ? plural(found.data.answered, {
                    one: "# more that is asked often seems to be answered by an article or a canned response",
                    other:
                      "# more that are asked often seem to be answered by an article or a canned response",
                  })
                : null}
            </p>
            {found.data.questions.length === 0 ? (
              <p>
                <Trans>Nothing that is asked often is without an answer.</Trans>
              </p>
            ) : null}
            <ol>
              {found.data.questions.map((q) => (
                <Question key={q.text} question={q} store={store} />
              ))}
            </ol>
          </>
        ) : null}
      </div>
    </section>
  );
}

/** Begins a canned response or an article with words that were said, in the Library's own form. */
function useStore() {
  const navigate = useNavigate();
  const beginCanned = useBeginNew("canned", freshCanned);
  const beginArticle = useBeginNew("article", freshArticle);
  const goes = (begun: boolean, to: string) => {
    if (!begun) say(t`Something new is being written there already. Save or undo it first.`, "info");
    void navigate(to);
  };
  return {
    canned: (text: string) => goes(beginCanned({ text, scope: "common" }), "/library/canned#new"),
    article: (title: string) => goes(beginArticle({ title: title.slice(0, 160) }), "/library/articles/new"),
  };
}

interface PartProps {
  store: ReturnType<typeof useStore>;
}

function Answer({ answer: a, store }: { answer: AnswerAgain } & PartProps) {
  const minutes = Math.round(a.savedSeconds / 60);
  return (
    <Item
      text={a.text}
      others={a.others}
      chats={a.chats}
      facts={[
        t`typed ${plural(a.times, { one: "# time", other: "# times" })} by ${plural(a.operators, { one: "# person", other: "# people" })}`,
        minutes > 0
          ? plural(minutes, { one: "about # minute of typing", other: "about # minutes of typing" })
          : "",
        a.rated > 0 ? t`${a.good} of ${a.rated} ratings good` : "",
        a.best ? t`the best-rated wording` : a.others.length > 0 ? t`the wording used most` : "",
      ]}
    >
      <Button variant="outlined" startIcon={<Icons.Plus />} onClick={() => store.canned(a.text)}>
        <Trans>Canned response</Trans>
      </Button>
    </Item>
  );
}

function Question({ question: q, store }: { question: QuestionAgain } & PartProps) {
  const percent = Math.round(q.covered * 100);
  return (
    <Item
      text={q.text}
      others={q.others}
      chats={q.chats}
      facts={[
        plural(q.times, { one: "asked # time", other: "asked # times" }),
        q.nearest && percent > 0 ? t`closest is “${q.nearest}”, with ${percent} % of its telling words` : "",
      ]}
    >
      <Button variant="outlined" startIcon={<Icons.Page />} onClick={() => store.article(q.text)}>
        <Trans>Article</Trans>
      </Button>
      <Button variant="outlined" startIcon={<Icons.Plus />} onClick={() => store.canned("")}>
        <Trans>Canned response</Trans>
      </Button>
    </Item>
  );
}

interface ItemProps {
  text: string;
  others: string[];
  chats: string[];
  facts: string[];
  children: ReactNode;
}

function Item({ text, others, chats, facts, children }: ItemProps) {
  return (
    <li>
      <div>
        <p dir="auto">{text}</p>
        <p className="meta">{facts.filter(Boolean).join(" · ")}</p>
        <details>
          <summary>
            <Trans>Other wordings, and where it was said</Trans>
          </summary>
          {others.map((other) => (
            <p key={other} dir="auto">
              {other}
            </p>
          ))}
          <p>
            {chats.map((id, i) => (
              <Link key={id} to={`/transcripts/${id}`}>
                {t`Chat ${i + 1}`}
              </Link>
            ))}
          </p>
        </details>
      </div>
      <span className="acts">{children}</span>
    </li>
  );
}
