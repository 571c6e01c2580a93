import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { ChannelLine, ChannelSettings } from "../../shared/types";
import { uuid } from "../../shared/uuid";
import { useEditing } from "../forms/editing";
import { Picker, SaveBar } from "../forms/parts";
import { usePicked } from "../forms/picked";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { NumberField, TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";

interface Choices {
  widgets: { value: string; label: string }[];
  departments: { value: string; label: string }[];
  /** Whether text messages, and mail, can go out at all. */
  texts: boolean;
  mail: boolean;
}

/** The numbers and addresses at which people write to the team beside the site. */
export function ChannelsPage() {
  const lines = useQuery({
    queryKey: ["setup", "channels"],
    queryFn: () => ask(api.GET("/api/setup/channels")),
  });
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const widgets = useQuery({
    queryKey: ["setup", "widgets"],
    queryFn: () => ask(api.GET("/api/setup/widgets")),
  });
  const failed = [lines, departments, widgets].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!lines.data || !departments.data || !widgets.data)
    return <section className="loading" aria-busy="true" />;
  return (
    <Lines
      kept={{ version: lines.data.version, lines: lines.data.lines }}
      choices={{
        widgets: widgets.data.map((w) => ({ value: w.id, label: w.design.name })),
        departments: departments.data.map((d) => ({ value: d.id ?? "", label: d.name })),
        texts: lines.data.texts,
        mail: lines.data.mail,
      }}
    />
  );
}

function Lines({ kept, choices }: { kept: ChannelSettings; choices: Choices }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing("channels", kept);
  const { lines } = editing.value;
  const change = (next: ChannelLine[]) => {
    editing.change({ lines: next });
    saving.clear();
  };
  const fresh = (): ChannelLine => ({
    id: uuid(),
    kind: "text",
    name: "",
    address: "",
    widgetId: choices.widgets[0]?.value ?? "",
    offered: false,
    quietMinutes: 60,
    on: true,
  });
  const { at, shown, pick, edit, remove, unsaved } = usePicked(lines, kept.lines, change, fresh);
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/channels", { body: editing.value })));
        await queries.invalidateQueries({ queryKey: ["setup", "channels"] });
      },
      t`Lines saved and in effect`,
    );
  return (
    <div className="two">
      <Picker
        title={t`Text and email`}
        shown={shown?.id}
        pick={pick}
        items={lines.map((l) => ({
          id: l.id,
          name: l.name || t`(no name yet)`,
          unsaved: unsaved(l),
          about: <span>{l.on ? l.address : t`off`}</span>,
        }))}
      />
      <section className="editor" aria-label={shown?.name || t`New line`}>
        {shown ? (
          <LineForm
            key={shown.id}
            line={shown}
            choices={choices}
            edit={edit}
            remove={remove}
            wrong={(part) => saving.wrongAt(`lines.${at}.${part}`)}
          />
        ) : (
          <div className="body">
            <p className="nothing">
              <Trans>
                No lines yet. A line is a telephone number for text messages, or an email address. What people
                write there comes into the line like any chat, and is answered in the same lane.
              </Trans>
            </p>
          </div>
        )}
        <SaveBar
          saving={saving}
          editing={editing}
          save={save}
          theirWords={(theirs) => theirs.lines.map((l) => l.name).join(", ")}
        />
      </section>
    </div>
  );
}

interface FormProps {
  line: ChannelLine;
  choices: Choices;
  edit: (part: Partial<ChannelLine>) => void;
  remove: () => void;
  wrong: (part: string) => string | undefined;
}

function LineForm({ line, choices, edit, remove, wrong }: FormProps) {
  const text = line.kind === "text";
  return (
    <>
      <header>
        <h2>{line.name || t`New line`}</h2>
        <Button onClick={remove}>
          <Trans>Remove this line</Trans>
        </Button>
      </header>
      <div className="body">
        {(text ? choices.texts : choices.mail) ? null : (
          <p className="hint" role="status">
            {text ? (
              <Trans>
                No gateway for text messages is connected, so nothing comes or goes here. Whoever runs Stoop
                sets STOOP_TEXTS_URL and STOOP_TEXTS_KEY.
              </Trans>
            ) : (
              <Trans>
                No mail server is connected, so nothing comes or goes here. Whoever runs Stoop sets STOOP_SMTP
                and STOOP_MAIL_ADDRESS.
              </Trans>
            )}
          </p>
        )}
        <div className="fields">
          <Select
            label={t`Kind`}
            value={line.kind}
            options={[
              { value: "text", label: t`Text messages` },
              { value: "email", label: t`Email` },
            ]}
            change={(kind) => edit({ kind: kind as ChannelLine["kind"] })}
          />
          <TextInput
            label={t`Name`}
            value={line.name}
            change={(name) => edit({ name })}
            wrong={wrong("name")}
            most={80}
          />
          <TextInput
            label={text ? t`Number` : t`Address`}
            value={line.address}
            change={(address) => edit({ address })}
            wrong={wrong("address")}
            placeholder={text ? "+45 32 12 34 56" : "help@example.com"}
            most={200}
          />
        </div>
        <Tick checked={line.on} change={(on) => edit({ on })}>
          <Trans>In use</Trans>
        </Tick>
        {text ? (
          <Tick checked={line.offered} change={(offered) => edit({ offered })}>
            <Trans>The widget offers it: an SMS link</Trans>
          </Tick>
        ) : null}
        <div className="fields">
          <Select
            label={t`Widget`}
            value={line.widgetId}
            options={choices.widgets}
            change={(widgetId) => edit({ widgetId })}
            wrong={wrong("widgetId")}
          />
          <Select
            label={t`Department`}
            value={line.departmentId ?? ""}
            options={[{ value: "", label: t`As the rules say` }, ...choices.departments]}
            change={(departmentId) => edit({ departmentId })}
            wrong={wrong("departmentId")}
          />
          <NumberField
            label={t`Ends after silence of`}
            unit={t`minutes`}
            value={line.quietMinutes}
            change={(quietMinutes) => edit({ quietMinutes })}
            wrong={wrong("quietMinutes")}
            none={t`never`}
          />
        </div>
        <p className="hint">
          {text ? (
            <Trans>
              The widget’s departments, hours and message limit hold here, too, and so do its rules. Nobody is
              reminded by text message that they have not answered. Who sends STOP gets no more until they
              send START.
            </Trans>
          ) : (
            <Trans>
              Let your mail server pass on what comes to this address to Stoop. A mail is a message in the
              line of the widget’s department; answers go on in the same thread.
            </Trans>
          )}
        </p>
      </div>
    </>
  );
}
