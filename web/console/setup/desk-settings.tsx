import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { DeskSettings } from "../../shared/types";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Tick } from "../kit/choice";
import { NumberField, TextInput } from "../kit/field";
import { LoadTrouble, Wrong } from "../kit/states";
import { OwnFields, Words } from "./own-fields";

const kinds: { value: string; label: string }[] = [
  { value: "picture", label: t`Pictures (JPEG, PNG, GIF, WebP)` },
  { value: "pdf", label: "PDF" },
  { value: "video", label: t`Video` },
  { value: "sound", label: t`Sound and voice messages` },
  { value: "text", label: t`Plain text and CSV` },
  { value: "document", label: t`Office documents` },
  { value: "archive", label: t`Archives (ZIP and others); stored only, never opened` },
];

/** What holds for every Desk: outcomes, sales, files, own fields of contacts. */
export function DeskSettingsPage() {
  const settings = useQuery({ queryKey: ["setup", "desk"], queryFn: () => ask(api.GET("/api/setup/desk")) });
  if (settings.isError) return <LoadTrouble error={settings.error} again={() => void settings.refetch()} />;
  if (!settings.data) return <section className="loading" aria-busy="true" />;
  return <Form kept={settings.data} />;
}

function Form({ kept }: { kept: DeskSettings }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing("desk", kept);
  const d = editing.value;
  const change = (part: Partial<DeskSettings>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/desk", { body: d })));
        await queries.invalidateQueries({ queryKey: ["setup", "desk"] });
      },
      t`Desk settings saved`,
    );
  return (
    <section className="editor" aria-label={t`Desk`}>
      <header>
        <h2>
          <Trans>Desk</Trans>
        </h2>
      </header>
      <div className="body">
        <h3>
          <Trans>Outcomes</Trans>
        </h3>
        <Words
          list={d.outcomes}
          name={t`outcome`}
          change={(outcomes) => change({ outcomes })}
          wrong={wrongAt("outcomes")}
        />
        <div className="fields">
          <TextInput
            label={t`Currency of sales`}
            value={d.currency}
            change={(currency) => change({ currency })}
            wrong={wrongAt("currency")}
            most={3}
          />
          <NumberField
            label={t`Largest file`}
            unit={t`MB`}
            value={d.maxMegabytes}
            change={(maxMegabytes) => change({ maxMegabytes })}
            wrong={wrongAt("maxMegabytes")}
          />
        </div>
        <h3>
          <Trans>Urgent chats</Trans>
        </h3>
        <div className="fields">
          <NumberField
            label={t`Head start for each step of priority`}
            unit={t`minutes`}
            value={d.priorityMinutes}
            change={(priorityMinutes) => change({ priorityMinutes })}
            wrong={wrongAt("priorityMinutes")}
            hint={t`An urgent chat passes those that have waited up to this much longer, and no others: nobody waits forever behind urgent ones.`}
          />
        </div>
        <h3>
          <Trans>Translation</Trans>
        </h3>
        <Tick checked={!d.translationUnseen} change={(shown) => change({ translationUnseen: !shown })}>
          <Trans>Operators see the translation of their words before it goes</Trans>
        </Tick>
        <p className="hint">
          <Trans>Enter then shows the translation, and Enter again sends it.</Trans>
        </p>
        <h3>
          <Trans>Looking along</Trans>
        </h3>
        <Tick checked={d.keepAlong === true} change={(keepAlong) => change({ keepAlong })}>
          <Trans>Keep what is seen with the chat, for as long as the chat; visitors are told</Trans>
        </Tick>
        <h3>
          <Trans>Files visitors and operators may send, by what they contain</Trans>
        </h3>
        {kinds.map((k) => (
          <Tick
            key={k.value}
            checked={d.fileKinds.includes(k.value)}
            change={(on) =>
              change({ fileKinds: on ? [...d.fileKinds, k.value] : d.fileKinds.filter((v) => v !== k.value) })
            }
          >
            {k.label}
          </Tick>
        ))}
        <Wrong words={wrongAt("fileKinds")} />
        <h3>
          <Trans>Contact fields besides name, email, phone and company</Trans>
        </h3>
        <OwnFields
          fields={d.contactFields}
          change={(contactFields) => change({ contactFields })}
          wrong={wrongAt("contactFields")}
        />
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}
