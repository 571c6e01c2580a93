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
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";
import { TextField } from "../kit/text-field";
import { say } from "../kit/say";
import { ByFolder } from "./by-folder";

const fresh: ArticleView = { version: 0, folder: "", title: "", body: "", audience: "team" };

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
    fresh,
    (lost, article) => {
      say(`${article.title} was deleted by a colleague. What you typed is kept under New.`);
      if (lost === id) void navigate("/library/articles/new");
    },
  );
  if (list.isError) return <LoadTrouble error={list.error} again={() => void list.refetch()} />;
  const all = list.data ?? [];
  return (
    <div className="two">
      <section className="picker" aria-label="Articles">
        <header>
          <TextField
            size="small"
            type="search"
            value={typed}
            placeholder="Search"
            onChange={(e) => setTyped(e.target.value)}
            slotProps={{ htmlInput: { "aria-label": "Search articles", maxLength: 200 } }}
          />
          <Button
            variant="outlined"
            startIcon={<Icons.Plus />}
            onClick={() => void navigate("/library/articles/new")}
          >
            {edited.has("new") ? "New, not saved" : "New"}
          </Button>
        </header>
        {list.isSuccess ? (
          <ByFolder
            key={words}
            list={all}
            keyOf={(a) => a.id ?? ""}
            folderOf={words ? undefined : (a) => a.folder}
            none={words ? "No matches." : "No articles yet. Write the first one."}
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
                    <span className="meta">{a.audience === "all" ? "for visitors too" : "team"}</span>
                  )}
                </span>
                {a.excerpt ? <span className="excerpt">{a.excerpt}</span> : null}
              </button>
            )}
          </ByFolder>
        ) : null}
      </section>
      {id === "new" ? (
        <Editor key="new" kept={fresh} />
      ) : id ? (
        <Article key={id} id={id} />
      ) : (
        <section className="editor none">
          <p className="nothing">Choose an article on the left.</p>
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
              navigator.clipboard.writeText(a.url ?? "").then(() => say("Link copied", "success"))
            }
            startIcon={<Icons.Copy />}
          >
            Link
          </Button>
        ) : null}
        {mayEdit ? (
          <Button variant="outlined" startIcon={<Icons.Pencil />} onClick={() => setEditing(true)}>
            Edit
          </Button>
        ) : null}
      </header>
      <div className="body">
        <p className="meta">
          {a.folder || "No folder"} · {a.audience === "all" ? "visitors can read it" : "team only"} ·{" "}
          {a.author}, {a.updatedAt ? dayAndTime(a.updatedAt) : ""}
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
  const [asking, setAsking] = useState(false);
  const change = (part: Partial<ArticleView>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(async () => {
      const { id, version, folder, title, body, audience } = a;
      const sent = { version, folder, title, body, audience, ...(id ? { id } : {}) };
      const saved = await ask(api.PUT("/api/articles", { body: sent }));
      editing.saved(saved);
      await queries.invalidateQueries({ queryKey: ["article", saved.id] });
      await queries.invalidateQueries({ queryKey: ["articles"] });
      onDone?.();
      void navigate(`/library/articles/${saved.id ?? ""}`);
    }, `${a.title} saved`);
  const remove = () =>
    void saving.run(async () => {
      await ask(api.DELETE("/api/articles/{id}", { params: { path: { id: kept.id ?? "" } } }));
      editing.undo();
      await queries.invalidateQueries({ queryKey: ["articles"] });
      void navigate("/library/articles");
    }, `${kept.title} deleted`);
  return (
    <section className="editor" aria-label={kept.title || "New article"}>
      <header>
        <h2>{kept.title || "New article"}</h2>
        {kept.id ? (
          asking ? (
            <span className="asking">
              Delete it for everyone?
              <Button variant="outlined" color="error" onClick={remove} autoFocus>
                Delete
              </Button>
              <Button onClick={() => setAsking(false)}>Keep it</Button>
            </span>
          ) : (
            <Button onClick={() => setAsking(true)} startIcon={<Icons.Bin />}>
              Delete
            </Button>
          )
        ) : null}
        {onDone ? <Button onClick={onDone}>Read</Button> : null}
      </header>
      <div className="body">
        <div className="fields">
          <TextInput
            label="Title"
            value={a.title}
            change={(title) => change({ title })}
            wrong={wrongAt("title")}
            most={160}
          />
          <TextInput label="Folder" value={a.folder} change={(folder) => change({ folder })} most={80} />
          <Select
            label="Who can read it"
            value={a.audience}
            wrong={wrongAt("audience")}
            options={[
              { value: "team", label: "team only" },
              ...(me.role !== "operator" || a.audience === "all"
                ? [{ value: "all", label: "visitors too, by its link" }]
                : []),
            ]}
            change={(v) => change({ audience: v as ArticleView["audience"] })}
          />
        </div>
        <TextField
          label="Text, in Markdown"
          value={a.body ?? ""}
          multiline
          minRows={12}
          fullWidth
          error={wrongAt("body") !== undefined}
          helperText={
            wrongAt("body") ?? "**bold**, *slanted*, - a list, [words](https://address), | tables |"
          }
          onChange={(e) => change({ body: e.target.value })}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      </div>
      <SaveBar saving={saving} editing={editing} save={save} theirWords={(theirs) => theirs.body ?? ""} />
    </section>
  );
}
