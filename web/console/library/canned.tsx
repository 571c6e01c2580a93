import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation } from "react-router";

import { api, ask } from "../../shared/api";
import type { CannedView } from "../../shared/types";
import { useTeam } from "../desk/provider";
import { Icons } from "../icons";
import { useEdited, useEditing, useGone } from "../forms/editing";
import { NotSaved, SaveBar } from "../forms/parts";
import { Removal } from "../forms/removal";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { LoadTrouble } from "../kit/states";
import { TextField } from "../kit/text-field";
import { say } from "../kit/say";
import { ByFolder } from "./by-folder";
import { CannedFields, freshCanned, saveCanned } from "./canned-form";
import { ImportDialog } from "./import";

/** The canned responses: a list by folder with a search, and an editor. */
export function CannedPage() {
  const canned = useQuery({
    queryKey: ["canned"],
    queryFn: () => ask(api.GET("/api/canned")),
    placeholderData: (before) => before,
  });
  // What was begun elsewhere is gone on with here.
  const [open, setOpen] = useState(useLocation().hash === "#new" ? "new" : "");
  const [words, setWords] = useState("");
  const [importing, setImporting] = useState(false);
  const edited = useEdited("canned");
  const read = canned.isSuccess && !canned.isPlaceholderData;
  useGone(
    "canned",
    read ? { ids: canned.data.map((c) => c.id ?? ""), at: canned.dataUpdatedAt } : undefined,
    freshCanned,
    (id, lost) => {
      say(t`;${lost.shortcut} was deleted by a colleague. What you typed is kept under New.`);
      if (open === id) setOpen("new");
    },
  );
  if (canned.isError) return <LoadTrouble error={canned.error} again={() => void canned.refetch()} />;
  if (!canned.data) return <section className="loading" aria-busy="true" />;
  const all = canned.data;
  const terms = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = all.filter((c) => {
    const text = `${c.shortcut} ${c.folder} ${c.text}`.toLowerCase();
    return terms.every((t) => text.includes(t));
  });
  const shown = open === "new" ? freshCanned : all.find((c) => c.id === open);
  return (
    <div className="two">
      <section className="picker" aria-label={t`Canned responses`}>
        <header>
          <TextField
            size="small"
            type="search"
            value={words}
            placeholder={t`Search`}
            onChange={(e) => setWords(e.target.value)}
            slotProps={{ htmlInput: { "aria-label": t`Search canned responses`, maxLength: 200 } }}
          />
          <Button variant="outlined" startIcon={<Icons.Plus />} onClick={() => setOpen("new")}>
            {edited.has("new") ? t`New, not saved` : t`New`}
          </Button>
        </header>
        <p className="total" role="status">
          {terms.length > 0 ? t`${found.length} of ${all.length}` : t`${all.length} in total`}
        </p>
        <ByFolder
          key={words}
          list={found}
          keyOf={(c) => c.id ?? ""}
          folderOf={(c) => c.folder}
          none={
            all.length === 0
              ? t`No canned responses yet. Create one here, or keep one from a message you sent.`
              : t`No matches.`
          }
        >
          {(c) => (
            <button aria-current={open === c.id} onClick={() => setOpen(c.id ?? "")}>
              <span className="row">
                <b>;{c.shortcut}</b>
                {edited.has(c.id ?? "") ? <NotSaved /> : <Whose canned={c} />}
              </span>
              <span className="cut" dir="auto">
                {c.text}
              </span>
            </button>
          )}
        </ByFolder>
        <footer>
          <Button component="a" href="/api/canned.csv" download startIcon={<Icons.Download />}>
            <Trans>CSV</Trans>
          </Button>
          <Button onClick={() => setImporting(true)} startIcon={<Icons.Upload />}>
            <Trans>Import</Trans>
          </Button>
        </footer>
      </section>
      {shown ? (
        <Editor key={open} kept={shown} onSaved={setOpen} />
      ) : (
        <section className="editor none">
          <p className="nothing">
            <Trans>Choose a response on the left, or create one.</Trans>
          </p>
        </section>
      )}
      {importing ? <ImportDialog onClose={() => setImporting(false)} /> : null}
    </div>
  );
}

function Whose({ canned }: { canned: CannedView }) {
  const departments = useTeam((s) => s.departments);
  const department = departments.find((d) => d.id === canned.departmentId)?.name;
  return (
    <span className="meta">
      {[
        canned.scope === "own" ? t`mine` : (department ?? t`everybody`),
        canned.language,
        canned.uses > 0 ? t`used ${canned.uses}×` : "",
        canned.files.length > 0 ? t`file` : "",
      ]
        .filter(Boolean)
        .join(" · ")}
    </span>
  );
}

function Editor({ kept, onSaved }: { kept: CannedView; onSaved: (id: string) => void }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing(`canned.${kept.id ?? "new"}`, kept);
  const c = editing.value;
  const change = (part: Partial<CannedView>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        const saved = await saveCanned(c);
        editing.saved(saved, `canned.${saved.id ?? "new"}`);
        await queries.invalidateQueries({ queryKey: ["canned"] });
        onSaved(saved.id ?? "");
      },
      t`;${c.shortcut} saved`,
    );
  const remove = () =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/canned/{id}", { params: { path: { id: kept.id ?? "" } } }));
        editing.undo();
        await queries.invalidateQueries({ queryKey: ["canned"] });
        onSaved("");
      },
      t`;${kept.shortcut} deleted`,
    );
  return (
    <section className="editor" aria-label={kept.shortcut || t`New canned response`}>
      <header>
        <h2>{kept.id ? `;${kept.shortcut}` : t`New canned response`}</h2>
        {kept.id && kept.mayEdit ? (
          <Removal question={t`Delete it for everyone who uses it?`} remove={remove} />
        ) : null}
      </header>
      <div className="body">
        {kept.mayEdit ? (
          <CannedFields canned={c} change={change} saving={saving} />
        ) : (
          <>
            <p className="nothing">
              <Trans>Only leads can change shared responses. You can keep your own copy.</Trans>
            </p>
            <p className="read" dir="auto">
              {kept.text}
            </p>
            <Button
              variant="outlined"
              onClick={() =>
                void saving.run(
                  async () => {
                    const { shortcut, text, folder, language, files } = kept;
                    const saved = await saveCanned({
                      ...freshCanned,
                      shortcut,
                      text,
                      folder,
                      language,
                      files,
                    });
                    await queries.invalidateQueries({ queryKey: ["canned"] });
                    onSaved(saved.id ?? "");
                  },
                  t`;${kept.shortcut} is now yours`,
                )
              }
            >
              <Trans>Keep my own copy</Trans>
            </Button>
          </>
        )}
      </div>
      {kept.mayEdit ? (
        <SaveBar saving={saving} editing={editing} save={save} theirWords={(theirs) => theirs.text} />
      ) : null}
    </section>
  );
}
