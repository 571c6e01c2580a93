import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, ask } from "../../../shared/api";
import { dayAndTime } from "../../../shared/format";
import type { WidgetChoices, WidgetDesign, WidgetSettings } from "../../../shared/types";
import { useEditing } from "../../forms/editing";
import { SaveBar } from "../../forms/parts";
import { useSaving } from "../../forms/saving";
import { Button } from "../../kit/button";
import { Confirm } from "../../kit/confirm";
import { Wrong } from "../../kit/states";
import { ChatPart } from "./chat-part";
import { FormPart } from "./form-part";
import { HelpPart } from "./help-part";
import { HistoryPart } from "./history-part";
import { InstallPart } from "./install-part";
import { LooksPart } from "./looks-part";
import { PagesPart } from "./pages-part";
import { Preview, usePreview } from "./preview";
import { WordsPart } from "./words-part";

/** What each part of the editor needs. */
export interface PartProps {
  design: WidgetDesign;
  change: (part: Partial<WidgetDesign>) => void;
  wrongAt: (field: string) => string | undefined;
  choices: WidgetChoices;
}

const parts = ["looks", "words", "pages", "help", "form", "chat", "site", "history"] as const;
type Part = (typeof parts)[number];

function partName(part: Part): string {
  switch (part) {
    case "looks":
      return t`Looks`;
    case "words":
      return t`Words`;
    case "pages":
      return t`Where and when`;
    case "help":
      return t`Before a person`;
    case "form":
      return t`Form`;
    case "chat":
      return t`Chat`;
    case "site":
      return t`On the site`;
    case "history":
      return t`History`;
  }
}

/** Tells in which part a field stands. */
function partOf(field: string): Part {
  if (/^(looks|colour|corner)/.test(field)) return "looks";
  if (/^(title|greeting|closedGreeting|texts|languages)/.test(field)) return "words";
  if (/^(sites|showOn|hideOn|departments|hoursId)/.test(field)) return "pages";
  if (/^help/.test(field)) return "help";
  if (/^form/.test(field)) return "form";
  return "chat";
}

interface Props {
  kept: WidgetSettings;
  choices: WidgetChoices;
  removed: () => void;
}

/** Edits a widget beside its preview: as a draft that all admins share, until it is published. */
export function WidgetEditor({ kept, choices, removed }: Props) {
  const queries = useQueryClient();
  const saving = useSaving();
  const [part, setPart] = useState<Part>("looks");
  const [asking, setAsking] = useState<"off" | "remove" | undefined>();
  const stored = useMemo(
    () => ({
      design: kept.draft?.design ?? kept.design,
      version: `${kept.version}.${kept.draft?.version ?? 0}`,
    }),
    [kept],
  );
  const editing = useEditing(`widget.${kept.key}`, stored);
  const { design } = editing.value;
  const change = (part: Partial<WidgetDesign>) => {
    editing.change({ design: { ...design, ...part } });
    saving.clear();
  };
  const seen = usePreview(kept.key, design);
  const live = new Map((seen.preview?.wrong ?? []).map((w) => [w.field, w.words]));
  const wrongAt = (field: string) => saving.wrongAt(field) ?? live.get(field);
  const wrongParts = new Set([...live.keys()].map(partOf));
  const path = { path: { key: kept.key } };
  const body = { design, version: kept.version, draft: kept.draft?.version ?? 0 };
  const reread = () => queries.invalidateQueries({ queryKey: ["setup", "widgets"] });
  const saveDraft = () =>
    void saving.run(
      async () => {
        const draft = await ask(api.PUT("/api/setup/widgets/{key}/draft", { params: path, body }));
        editing.saved({ design: draft.design, version: `${kept.version}.${draft.version}` });
        await reread();
      },
      t`Draft of ${design.name} saved. The pages are as they were`,
    );
  const publish = () =>
    void saving.run(
      async () => {
        const w = await ask(api.POST("/api/setup/widgets/{key}/publish", { params: path, body }));
        editing.saved({ design: w.design, version: `${w.version}.0` });
        await reread();
        await queries.invalidateQueries({ queryKey: ["setup", "widget-history", kept.key] });
      },
      t`${design.name} published. Open pages follow within seconds`,
    );
  const drop = () =>
    void saving.run(
      async () => {
        const query = { version: kept.draft?.version ?? 0 };
        await ask(api.DELETE("/api/setup/widgets/{key}/draft", { params: { ...path, query } }));
        editing.undo();
        await reread();
      },
      t`Draft dropped`,
    );
  const turn = (off: boolean) =>
    void saving.run(
      async () => {
        await ask(
          api.POST("/api/setup/widgets/{key}/switch", {
            params: path,
            body: { off, version: kept.version },
          }),
        );
        await reread();
      },
      off ? t`${design.name} is off all pages` : t`${design.name} is on its pages again`,
    );
  const remove = () =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/setup/widgets/{key}", { params: path }));
        editing.undo();
        removed();
        await reread();
      },
      t`${design.name} removed. Its chats are kept`,
    );
  const props: PartProps = { design, change, wrongAt, choices };
  return (
    <>
      <section className="editor" aria-label={design.name}>
        <header>
          <h2>{design.name}</h2>
          <span className={kept.off ? "now" : "now is-open"}>
            {!kept.off ? t`on the site` : kept.published ? t`switched off` : t`not published yet`}
          </span>
          <span className="acts">
            {kept.draft ? (
              <Button onClick={drop} disabled={saving.busy}>
                <Trans>Drop draft</Trans>
              </Button>
            ) : null}
            {!kept.off ? (
              <Button onClick={() => setAsking("off")}>
                <Trans>Switch off</Trans>
              </Button>
            ) : kept.published ? (
              <>
                <Button onClick={() => turn(false)} disabled={saving.busy}>
                  <Trans>Switch on</Trans>
                </Button>
                <Button onClick={() => setAsking("remove")}>
                  <Trans>Remove</Trans>
                </Button>
              </>
            ) : (
              <Button onClick={() => setAsking("remove")}>
                <Trans>Remove</Trans>
              </Button>
            )}
          </span>
          <nav className="parts" aria-label={t`Parts of the widget`}>
            {parts.map((p) => (
              <button key={p} aria-current={p === part} onClick={() => setPart(p)}>
                {partName(p)}
                {wrongParts.has(p) ? (
                  <i className="amiss" title={t`Something here must be mended before publishing`}>
                    !
                  </i>
                ) : null}
              </button>
            ))}
          </nav>
        </header>
        <div className="body">
          {kept.draft && !editing.changed ? (
            <p className="draft-of">
              <Trans>
                Draft, saved by {kept.draft.by} {dayAndTime(kept.draft.at)}. The pages do not show it yet.
              </Trans>
            </p>
          ) : null}
          {kept.draft && kept.draft.over < kept.version ? (
            <p className="draft-of">
              <Trans>
                The pages were changed since this draft was begun. Publishing it takes the place of that; see
                History.
              </Trans>
            </p>
          ) : null}
          {part === "looks" ? <LooksPart {...props} poor={seen.preview?.contrasts ?? []} /> : null}
          {part === "words" ? <WordsPart {...props} preview={seen.preview} speak={seen.setLanguage} /> : null}
          {part === "pages" ? <PagesPart {...props} /> : null}
          {part === "help" ? <HelpPart {...props} /> : null}
          {part === "form" ? <FormPart {...props} /> : null}
          {part === "chat" ? <ChatPart {...props} /> : null}
          {part === "site" ? <InstallPart kept={kept} /> : null}
          {part === "history" ? <HistoryPart kept={kept} look={seen.setInstead} /> : null}
        </div>
        {editing.theirs ? (
          <SaveBar saving={saving} editing={editing} save={publish} />
        ) : (
          <footer>
            <Wrong words={saving.trouble || (saving.amiss ? t`Mend what is marked first.` : "")} />
            <Button
              disabled={!editing.changed || saving.busy}
              onClick={() => {
                saving.clear();
                editing.undo();
              }}
            >
              <Trans>Undo changes</Trans>
            </Button>
            <Button variant="outlined" disabled={!editing.changed || saving.busy} onClick={saveDraft}>
              <Trans>Save draft</Trans>
            </Button>
            <Button
              variant="contained"
              disabled={(!editing.changed && !kept.draft && kept.published) || saving.busy}
              onClick={publish}
            >
              <Trans>Publish</Trans>
            </Button>
          </footer>
        )}
      </section>
      <Preview seen={seen} languages={design.languages} />
      {asking === "off" ? (
        <Confirm
          title={t`Switch ${design.name} off?`}
          yes={t`Switch off`}
          no={t`Leave it on`}
          onNo={() => setAsking(undefined)}
          onYes={() => {
            setAsking(undefined);
            turn(true);
          }}
        >
          <Trans>
            The chat leaves all pages within seconds. Chats that are under way go on to their end.
          </Trans>
        </Confirm>
      ) : null}
      {asking === "remove" ? (
        <Confirm
          title={t`Remove ${design.name}?`}
          yes={t`Remove`}
          no={t`Keep it`}
          grave
          onNo={() => setAsking(undefined)}
          onYes={() => {
            setAsking(undefined);
            remove();
          }}
        >
          <Trans>Its snippet does nothing any more. Its chats, transcripts and figures are kept.</Trans>
        </Confirm>
      ) : null}
    </>
  );
}
