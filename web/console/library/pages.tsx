import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { SavedPageView } from "../../shared/types";
import { useMe } from "../desk/provider";
import { useEdited, useEditing, useGone } from "../forms/editing";
import { NotSaved, SaveBar } from "../forms/parts";
import { Removal } from "../forms/removal";
import { useSaving } from "../forms/saving";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { say } from "../kit/say";
import { LoadTrouble } from "../kit/states";
import { TextField } from "../kit/text-field";
import { ByFolder } from "./by-folder";

const freshPage: SavedPageView = { version: 0, folder: "", title: "", url: "" };

/** Saved pages, which operators show visitors: a list by folder with a search, and an editor for leads. */
export function PagesPage() {
  const { id = "" } = useParams();
  const navigate = useNavigate();
  const leads = useMe().role !== "operator";
  const edited = useEdited("page");
  const [typed, setTyped] = useState("");
  const [words, setWords] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setWords(typed.trim()), 180);
    return () => clearTimeout(timer);
  }, [typed]);
  const list = useQuery({
    queryKey: ["saved-pages", words],
    queryFn: () => ask(api.GET("/api/pages", { params: { query: { words } } })),
    placeholderData: (before) => before,
  });
  const read = list.isSuccess && !list.isPlaceholderData && words === "";
  useGone(
    "page",
    read ? { ids: list.data.map((p) => p.id ?? ""), at: list.dataUpdatedAt } : undefined,
    freshPage,
    (lost, page) => {
      say(t`${page.title} was deleted by a colleague. What you typed is kept under New.`);
      if (lost === id) void navigate("/library/pages/new");
    },
  );
  if (list.isError) return <LoadTrouble error={list.error} again={() => void list.refetch()} />;
  const all = list.data ?? [];
  const one = all.find((p) => p.id === id);
  return (
    <div className="two">
      <section className="picker" aria-label={t`Pages`}>
        <header>
          <TextField
            size="small"
            type="search"
            value={typed}
            placeholder={t`Search`}
            onChange={(e) => setTyped(e.target.value)}
            slotProps={{ htmlInput: { "aria-label": t`Search pages`, maxLength: 200 } }}
          />
          {leads ? (
            <Button
              variant="outlined"
              startIcon={<Icons.Plus />}
              onClick={() => void navigate("/library/pages/new")}
            >
              {edited.has("new") ? t`New, not saved` : t`New`}
            </Button>
          ) : null}
        </header>
        {list.isSuccess ? (
          <ByFolder
            key={words}
            list={all}
            keyOf={(p) => p.id ?? ""}
            folderOf={words ? undefined : (p) => p.folder}
            none={
              words ? t`No matches.` : t`No pages yet. Save those that you show visitors again and again.`
            }
          >
            {(p) => (
              <button
                aria-current={id === p.id}
                onClick={() => void navigate(`/library/pages/${p.id ?? ""}`)}
              >
                <span className="row">
                  <b className="cut">{p.title}</b>
                  {edited.has(p.id ?? "") ? <NotSaved /> : null}
                </span>
                <span className="excerpt">{p.url}</span>
              </button>
            )}
          </ByFolder>
        ) : null}
      </section>
      {leads && (id === "new" || one) ? (
        <Editor key={id} kept={one ?? freshPage} />
      ) : one ? (
        <Shown page={one} />
      ) : (
        <section className="editor none">
          <p className="nothing">
            {leads ? (
              <Trans>Choose a page on the left, or save a new one.</Trans>
            ) : (
              <Trans>Choose a page on the left. In a chat, you offer it from Articles and bookings.</Trans>
            )}
          </p>
        </section>
      )}
    </div>
  );
}

/** A page as operators see it, who do not change it. */
function Shown({ page }: { page: SavedPageView }) {
  return (
    <section className="editor" aria-label={page.title}>
      <header>
        <h2>{page.title}</h2>
      </header>
      <div className="body">
        <p className="meta">
          {page.folder || t`No folder`} · {page.author}, {page.updatedAt ? dayAndTime(page.updatedAt) : ""}
        </p>
        <p>
          <a href={page.url} target="_blank" rel="noopener noreferrer">
            {page.url}
          </a>
        </p>
      </div>
    </section>
  );
}

function Editor({ kept }: { kept: SavedPageView }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing(`page.${kept.id ?? "new"}`, kept);
  const p = editing.value;
  const change = (part: Partial<SavedPageView>) => {
    editing.change(part);
    saving.clear();
  };
  const changed = () => queries.invalidateQueries({ queryKey: ["saved-pages"] });
  const save = () =>
    void saving.run(
      async () => {
        const { id, version, folder, title, url } = p;
        const body = { version, folder, title, url, ...(id ? { id } : {}) };
        const saved = await ask(api.PUT("/api/pages", { body }));
        editing.saved(saved, `page.${saved.id ?? "new"}`);
        await changed();
        void navigate(`/library/pages/${saved.id ?? ""}`);
      },
      t`${p.title} saved`,
    );
  const remove = () =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/pages/{id}", { params: { path: { id: kept.id ?? "" } } }));
        editing.undo();
        await changed();
        void navigate("/library/pages");
      },
      t`${kept.title} deleted`,
    );
  return (
    <section className="editor" aria-label={kept.title || t`New page`}>
      <header>
        <h2>{kept.title || t`New page`}</h2>
        {kept.id ? <Removal question={t`Delete it for everyone?`} remove={remove} /> : null}
      </header>
      <div className="body">
        <TextField
          label={t`Address`}
          size="small"
          fullWidth
          value={p.url}
          error={wrongAt("url") !== undefined}
          helperText={wrongAt("url")}
          onChange={(e) => change({ url: e.target.value })}
          slotProps={{ inputLabel: { shrink: true }, htmlInput: { maxLength: 2000 } }}
        />
        <div className="fields">
          <TextInput
            label={t`Title, as visitors read it`}
            value={p.title}
            change={(title) => change({ title })}
            wrong={wrongAt("title")}
            most={160}
          />
          <TextInput label={t`Folder`} value={p.folder} change={(folder) => change({ folder })} most={80} />
        </div>
        <p className="hint">
          <Trans>
            In a chat, operators offer it from Articles and bookings. The visitor's own tab goes there only
            when they agree.
          </Trans>
        </p>
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}
