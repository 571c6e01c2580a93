import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { ArticleView } from "../../shared/types";
import { useMe } from "../desk/provider";
import { Icons } from "../icons";
import { useEdited, useEditing, useGone } from "../forms/editing";
import { NotSaved, SaveBar } from "../forms/parts";
import { Removal } from "../forms/removal";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";
import { TextField } from "../kit/text-field";
import { say } from "../kit/say";
import { languageName } from "../setup/widgets/languages";
import { ofPeople } from "../../shared/languages";
import { language } from "../../shared/speak";
import { ByFolder } from "./by-folder";
import { ReadBy } from "./read-by";

/** An article that is not written yet. */
export const freshArticle: ArticleView = {
  version: 0,
  folder: "",
  title: "",
  body: "",
  audience: "team",
  language: ofPeople.includes(language()) ? (language() as ArticleView["language"]) : "en",
};

/** The articles: a list by folder with a search, a reader and an editor. */
export function ArticlesPage() {
  const { id = "" } = useParams();
  const navigate = useNavigate();

  const edited = useEdited("article");
  const [typed, setTyped] = useState("");
  const [words, setWords] = useState("");
  useEffect(() => {
    const timer = setTimeout(() => setWords(typed.trim()), 180);
    return () => clearTimeout(timer);
  }, [typed]);
  const list = useQuery({
    queryKey: ["articles", words],
    queryFn: () => ask(api.GET("/api/articles", { params: { query: { words } } })),
    placeholderData: (before) => before,
  });
  // What a search finds is not all there is.
  const read = list.isSuccess && !list.isPlaceholderData && words === "";
  useGone(
    "article",
    read ? { ids: list.data.map((a) => a.id ?? ""), at: list.dataUpdatedAt } : undefined,
    freshArticle,
    (lost, article) => {
      say(t`${article.title} was deleted by a colleague. What you typed is kept under New.`);
      if (lost === id) void navigate("/library/articles/new");
    },
  );
  if (list.isError) return <LoadTrouble error={list.error} again={() => void list.refetch()} />;
  const all = list.data ?? [];
  return (
    <div className="two">
      <section className="picker" aria-label={t`Articles`}>
        <header>
          <TextField
            size="small"
            type="search"
            value={typed}
            placeholder={t`Search`}
            onChange={(e) => setTyped(e.target.value)}
            slotProps={{ htmlInput: { "aria-label": t`Search articles`, maxLength: 200 } }}
          />
          <Button
            variant="outlined"
            startIcon={<Icons.Plus />}
            onClick={() => void navigate("/library/articles/new")}
          >
            {edited.has("new") ? t`New, not saved` : t`New`}
          </Button>
        </header>
        {list.isSuccess ? (
          <ByFolder
            key={words}
            list={all}
            keyOf={(a) => a.id ?? ""}
            folderOf={words ? undefined : (a) => a.folder}
            none={words ? t`No matches.` : t`No articles yet. Write the first one.`}
          >
            {(a) => (
              <button
                aria-current={id === a.id}
                onClick={() => void navigate(`/library/articles/${a.id ?? ""}`)}
              >
                <span className="row">
                  <b className="cut">{a.title}</b>
                  {edited.has(a.id ?? "") ? (
                    <NotSaved />
                  ) : (
                    <span className="meta">{a.audience === "all" ? t`for visitors too` : "team"}</span>
                  )}
                </span>
                {a.excerpt ? <span className="excerpt">{a.excerpt}</span> : null}
              </button>
            )}
          </ByFolder>
        ) : null}
      </section>
      {id === "new" ? (
        <Editor key="new" kept={freshArticle} />
      ) : id ? (
        <Article key={id} id={id} />
      ) : (
        <section className="editor none">
          <p className="nothing">
            <Trans>Choose an article on the left.</Trans>
          </p>
        </section>
      )}
    </div>
  );
}

function Article({ id }: { id: string }) {
  const me = useMe();
  // Who left it half written finds it so.
  const unsaved = useEdited("article").has(id);
  const [editing, setEditing] = useState(unsaved);
  const article = useQuery({
    queryKey: ["article", id],
    queryFn: () => ask(api.GET("/api/articles/{id}", { params: { path: { id } } })),
    placeholderData: (before) => before,
  });
  if (article.isError) return <LoadTrouble error={article.error} again={() => void article.refetch()} />;
  if (!article.data) return <section className="editor" aria-busy="true" />;
  const a = article.data;
  if (editing) return <Editor kept={a} onDone={() => setEditing(false)} />;
  const mayEdit = me.role !== "operator" || a.audience === "team";
  return (
    <section className="editor article" aria-label={a.title}>
      <header>
        <h2>{a.title}</h2>
        {a.url ? (
          <Button
            onClick={() =>
              navigator.clipboard.writeText(a.url ?? "").then(() => say(t`Link copied`, "success"))
            }
            startIcon={<Icons.Copy />}
          >
            <Trans>Link</Trans>
          </Button>
        ) : null}
        {mayEdit ? (
          <Button variant="outlined" startIcon={<Icons.Pencil />} onClick={() => setEditing(true)}>
            <Trans>Edit</Trans>
          </Button>
        ) : null}
      </header>
      <div className="body">
        <p className="meta">
          {a.folder || t`No folder`} · {a.audience === "all" ? t`visitors can read it` : t`team only`} ·{" "}
          {languageName(a.language ?? "en")} · {a.author}, {a.updatedAt ? dayAndTime(a.updatedAt) : ""}
          {a.read ? <ReadBy read={a.read} /> : null}
        </p>
        {/* The server renders it from Markdown; raw markup is left out there. */}
        <div className="rendered" dangerouslySetInnerHTML={{ __html: a.html ?? "" }} />
      </div>
    </section>
  );
}

function Editor({ kept, onDone }: { kept: ArticleView; onDone?: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const me = useMe();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing(`article.${kept.id ?? "new"}`, kept);
  const a = editing.value;
  const change = (part: Partial<ArticleView>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        const { id, version, folder, title, body, audience, language } = a;
        const sent = { version, folder, title, body, audience, language, ...(id ? { id } : {}) };
        const saved = await ask(api.PUT("/api/articles", { body: sent }));
        editing.saved(saved, `article.${saved.id ?? "new"}`);
        await queries.invalidateQueries({ queryKey: ["article", saved.id] });
        await queries.invalidateQueries({ queryKey: ["articles"] });
        onDone?.();
        void navigate(`/library/articles/${saved.id ?? ""}`);
      },
      t`${a.title} saved`,
    );
  const remove = () =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/articles/{id}", { params: { path: { id: kept.id ?? "" } } }));
        editing.undo();
        await queries.invalidateQueries({ queryKey: ["articles"] });
        void navigate("/library/articles");
      },
      t`${kept.title} deleted`,
    );
  return (
    <section className="editor" aria-label={kept.title || t`New article`}>
      <header>
        <h2>{kept.title || t`New article`}</h2>
        {kept.id ? <Removal question={t`Delete it for everyone?`} remove={remove} /> : null}
        {onDone ? (
          <Button onClick={onDone}>
            <Trans>Read</Trans>
          </Button>
        ) : null}
      </header>
      <div className="body">
        <div className="fields">
          <TextInput
            label={t`Title`}
            value={a.title}
            change={(title) => change({ title })}
            wrong={wrongAt("title")}
            most={160}
          />
          <TextInput label={t`Folder`} value={a.folder} change={(folder) => change({ folder })} most={80} />
          <Select
            label={t`Who can read it`}
            value={a.audience}
            wrong={wrongAt("audience")}
            options={[
              { value: "team", label: t`team only` },
              ...(me.role !== "operator" || a.audience === "all"
                ? [{ value: "all", label: t`visitors too: in the chat’s search, and by its link` }]
                : []),
            ]}
            change={(v) => change({ audience: v as ArticleView["audience"] })}
          />
          <Select
            label={t`Written in`}
            value={a.language ?? "en"}
            wrong={wrongAt("language")}
            options={ofPeople.map((l) => ({ value: l, label: languageName(l) }))}
            change={(v) => change({ language: v as ArticleView["language"] })}
          />
        </div>
        <TextField
          label={t`Text, in Markdown`}
          value={a.body ?? ""}
          multiline
          minRows={12}
          fullWidth
          error={wrongAt("body") !== undefined}
          helperText={
            wrongAt("body") ?? t`**bold**, *slanted*, - a list, [words](https://address), | tables |`
          }
          onChange={(e) => change({ body: e.target.value })}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      </div>
      <SaveBar saving={saving} editing={editing} save={save} theirWords={(theirs) => theirs.body ?? ""} />
    </section>
  );
}
