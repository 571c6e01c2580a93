import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import type { WidgetSettings } from "../../shared/types";
import { useEdited, useEditing } from "../forms/editing";
import { Picker, SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Tick } from "../kit/choice";
import { NumberField, TextInput } from "../kit/field";
import { LoadTrouble } from "../kit/states";
import { TextField } from "../kit/text-field";
import { PagePatterns } from "./page-patterns";

/** The chat as it stands on each site. */
export function WidgetsPage() {
  const widgets = useQuery({
    queryKey: ["setup", "widgets"],
    queryFn: () => ask(api.GET("/api/setup/widgets")),
  });
  const [open, setOpen] = useState("");
  const edited = useEdited("widget");
  if (widgets.isError) return <LoadTrouble error={widgets.error} again={() => void widgets.refetch()} />;
  if (!widgets.data) return <section className="loading" aria-busy="true" />;
  const shown = widgets.data.find((w) => w.key === open) ?? widgets.data[0];
  return (
    <div className="two">
      <Picker
        title={t`Widgets`}
        shown={shown?.key}
        pick={setOpen}
        items={widgets.data.map((w) => ({
          id: w.key,
          name: w.name,
          about: <span>{w.sites.join(", ")}</span>,
          unsaved: edited.has(w.key),
        }))}
        add={false}
      />
      {shown ? (
        <Form key={shown.key} kept={shown} />
      ) : (
        <section className="editor none">
          <p className="nothing">
            <Trans>No widget yet. Create one with the command “stoop widget”; see the guide.</Trans>
          </p>
        </section>
      )}
    </div>
  );
}

function Form({ kept }: { kept: WidgetSettings }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing(`widget.${kept.key}`, kept);
  const w = editing.value;
  const change = (part: Partial<WidgetSettings>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/widgets", { body: w })));
        await queries.invalidateQueries({ queryKey: ["setup", "widgets"] });
      },
      t`${w.name} saved`,
    );
  return (
    <section className="editor" aria-label={w.name}>
      <header>
        <h2>{w.name}</h2>
      </header>
      <div className="body">
        <p className="nothing">
          <Trans>
            {w.sites.join(", ")} · key {w.key}
          </Trans>
        </p>
        <h3>
          <Trans>Pages</Trans>
        </h3>
        <div className="fields">
          <PagePatterns
            label={t`Shown on`}
            value={w.showOn}
            change={(showOn) => change({ showOn })}
            wrong={wrongAt("showOn")}
            placeholder={t`all pages`}
            hint={t`Like /fares, /freight*; with commas between them`}
          />
          <PagePatterns
            label={t`Not shown on`}
            value={w.hideOn}
            change={(hideOn) => change({ hideOn })}
            wrong={wrongAt("hideOn")}
            placeholder={t`no page`}
          />
        </div>
        <h3>
          <Trans>While a visitor types</Trans>
        </h3>
        <Tick checked={w.draftsSeen} change={(draftsSeen) => change({ draftsSeen })}>
          <Trans>
            Show the team what a visitor types before it is sent. The visitor is told so below the field.
          </Trans>
        </Tick>
        <Tick checked={w.visitorFiles} change={(visitorFiles) => change({ visitorFiles })}>
          <Trans>Visitors can send files</Trans>
        </Tick>
        <div className="fields">
          <NumberField
            label={t`Longest message`}
            unit={t`characters`}
            value={w.messageLimit}
            change={(messageLimit) => change({ messageLimit })}
            wrong={wrongAt("messageLimit")}
          />
          <TextInput
            label={t`Launcher text`}
            value={w.title}
            change={(title) => change({ title })}
            wrong={wrongAt("title")}
            most={60}
          />
        </div>
        <h3>
          <Trans>Greetings</Trans>
        </h3>
        <TextField
          label={t`While the team is open`}
          value={w.greeting}
          multiline
          minRows={2}
          fullWidth
          onChange={(e) => change({ greeting: e.target.value })}
          slotProps={{ htmlInput: { maxLength: 500 }, inputLabel: { shrink: true } }}
        />
        <TextField
          label={t`While the team is closed`}
          value={w.closedGreeting}
          multiline
          minRows={2}
          fullWidth
          onChange={(e) => change({ closedGreeting: e.target.value })}
          slotProps={{ htmlInput: { maxLength: 500 }, inputLabel: { shrink: true } }}
        />
        <Tick checked={w.hideClosed} change={(hideClosed) => change({ hideClosed })}>
          <Trans>Hide the launcher while the team is closed</Trans>
        </Tick>
        <h3>
          <Trans>After a chat</Trans>
        </h3>
        <Tick checked={w.survey.on} change={(on) => change({ survey: { ...w.survey, on } })}>
          <Trans>Ask visitors how it was. One click is enough, and nobody has to answer.</Trans>
        </Tick>
        {w.survey.on ? (
          <>
            <div className="fields">
              <TextInput
                label={t`Question`}
                value={w.survey.question}
                change={(question) => change({ survey: { ...w.survey, question } })}
                placeholder={t`How was this chat?`}
                hint={t`Left empty, it is asked in the visitor’s language`}
                most={120}
              />
              <TextInput
                label={t`Question for words`}
                value={w.survey.wordsQuestion}
                change={(wordsQuestion) => change({ survey: { ...w.survey, wordsQuestion } })}
                placeholder={t`Anything you would like to add?`}
                most={120}
              />
            </div>
            <Tick checked={w.survey.byMail} change={(byMail) => change({ survey: { ...w.survey, byMail } })}>
              <Trans>
                Email the question once to visitors who gave an address and have not answered after 15 minutes
              </Trans>
            </Tick>
          </>
        ) : null}
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}
