import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { Retention, RetentionPreview } from "../../shared/types";
import { fileSize } from "../../shared/upload";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Confirm } from "../kit/confirm";
import { NumberField } from "../kit/field";
import { LoadTrouble } from "../kit/states";
import { Table } from "../kit/table";

const kinds: { name: "chats" | "form" | "files" | "visits" | "tickets"; label: string; about: string }[] = [
  {
    name: "chats",
    label: t`Whole chats`,
    about: t`Everything said, with notes, files and ratings. Reports keep what was counted, without names.`,
  },
  {
    name: "form",
    label: t`Names and form answers in chats`,
    about: t`Name, email, phone and answers to the form. What was said stays.`,
  },
  { name: "files", label: t`Shared files`, about: t`The chat still says that there was one, and its name.` },
  { name: "visits", label: t`Visits`, about: t`Pages looked at, times and places.` },
  {
    name: "tickets",
    label: t`Tickets that are done`,
    about: t`From when they were done, with all that was said in them.`,
  },
];

/** For how long things are kept; what that would delete is counted before anything goes. */
export function RetentionPage() {
  const settings = useQuery({
    queryKey: ["setup", "retention"],
    queryFn: () => ask(api.GET("/api/setup/retention")),
  });
  if (settings.isError) return <LoadTrouble error={settings.error} again={() => void settings.refetch()} />;
  if (!settings.data) return <section className="loading" aria-busy="true" />;
  return <Form kept={settings.data} />;
}

function Form({ kept }: { kept: Retention }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing("retention", kept);
  const r = editing.value;
  const [asking, setAsking] = useState(false);
  const { chats, form, files, visits, tickets } = r;
  const [days, settle] = useState({ chats, form, files, visits, tickets });
  useEffect(() => {
    // While somebody types 300, nobody wants to know of 3 and of 30.
    const timer = setTimeout(() => settle({ chats, form, files, visits, tickets }), 300);
    return () => clearTimeout(timer);
  }, [chats, form, files, visits, tickets]);
  const preview = useQuery({
    queryKey: ["retention-preview", days],
    queryFn: () => ask(api.POST("/api/retention/preview", { body: { ...days, version: "" } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/retention", { body: r })));
        await queries.invalidateQueries({ queryKey: ["setup", "retention"] });
      },
      t`Retention saved; what is too old is deleted within ten minutes`,
    );
  const settled =
    days.chats === chats &&
    days.form === form &&
    days.files === files &&
    days.visits === visits &&
    days.tickets === tickets;
  const counted = settled && preview.isSuccess && !preview.isPlaceholderData;
  const lists = counted ? going(preview.data) : [];
  return (
    <section className="editor" aria-label={t`Retention`}>
      <header>
        <h2>
          <Trans>Retention</Trans>
        </h2>
      </header>
      <div className="body">
        <p>
          <Trans>
            Everything is kept until you say for how long. What is older is deleted for good, in small steps.
          </Trans>
        </p>
        {kinds.map((k) => (
          <div key={k.name} className="keeps">
            <NumberField
              label={k.label}
              unit={t`days`}
              value={r[k.name]}
              change={(value) => {
                editing.change({ [k.name]: value });
                saving.clear();
              }}
              wrong={saving.wrongAt(k.name)}
              none={t`for ever`}
            />
            <p>{k.about}</p>
          </div>
        ))}
        <h3>
          <Trans>What these settings would delete today</Trans>
        </h3>
        {preview.isError ? (
          <p role="alert">{wordsFor(preview.error)}</p>
        ) : preview.isFetching || !settled ? (
          <p aria-busy="true">
            <Trans>Counting</Trans>
          </p>
        ) : lists.length === 0 ? (
          <p>
            <Trans>Nothing.</Trans>
          </p>
        ) : (
          <ul className="going">
            {lists.map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        )}
        <Deleted />
      </div>
      <SaveBar
        saving={saving}
        editing={editing}
        save={() => (counted && lists.length === 0 ? save() : setAsking(true))}
      />
      {asking ? (
        <Confirm
          title={t`Delete for good?`}
          yes={t`Save and delete`}
          no={t`Not now`}
          grave
          onYes={() => {
            setAsking(false);
            save();
          }}
          onNo={() => setAsking(false)}
        >
          {counted ? (
            <ul className="going">
              {lists.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
          ) : (
            <p>
              <Trans>How much that is could not be counted yet.</Trans>
            </p>
          )}
          <p>
            <Trans>This cannot be undone, and goes on every day from now on.</Trans>
          </p>
        </Confirm>
      ) : null}
    </section>
  );
}

/** Says what would go, line by line. */
function going(p: RetentionPreview): string[] {
  return [
    p.chats > 0
      ? t`${plural(p.chats, { one: "# whole chat", other: "# whole chats" })} with ${plural(p.messages, { one: "# message", other: "# messages" })}`
      : "",
    p.form > 0
      ? plural(p.form, { one: "Names and answers in # chat", other: "Names and answers in # chats" })
      : "",
    p.files > 0 ? t`${plural(p.files, { one: "# file", other: "# files" })}, ${fileSize(p.bytes)}` : "",
    p.visits > 0 ? plural(p.visits, { one: "# visit", other: "# visits" }) : "",
    p.tickets > 0 ? plural(p.tickets, { one: "# ticket", other: "# tickets" }) : "",
  ].filter(Boolean);
}

/** What was deleted lately, by itself or because somebody was to be forgotten. */
function Deleted() {
  const list = useQuery({
    queryKey: ["deletions"],
    queryFn: () => ask(api.GET("/api/retention/deletions")),
    refetchInterval: 30_000,
  });
  const words = (kind: string, n: number) =>
    kind === "chats"
      ? plural(n, { one: "# whole chat", other: "# whole chats" })
      : kind === "form"
        ? plural(n, { one: "Names and answers in # chat", other: "Names and answers in # chats" })
        : kind === "files"
          ? plural(n, { one: "# file", other: "# files" })
          : kind === "visits"
            ? plural(n, { one: "# visit", other: "# visits" })
            : kind === "tickets"
              ? plural(n, { one: "# ticket", other: "# tickets" })
              : t`A person was forgotten`;
  return (
    <>
      <h3>
        <Trans>Deleted lately</Trans>
      </h3>
      {list.data && list.data.length > 0 ? (
        <Table
          className="bans"
          rows={list.data.map((d, i) => ({ ...d, key: `${i}` }))}
          keyOf={(d) => d.key}
          columns={[
            { head: t`When`, cell: (d) => dayAndTime(d.at) },
            { head: t`What`, cell: (d) => words(d.kind, d.count) },
            { head: t`By`, cell: (d) => d.by ?? t`the settings` },
          ]}
        />
      ) : (
        <p>
          <Trans>Nothing so far.</Trans>
        </p>
      )}
    </>
  );
}
