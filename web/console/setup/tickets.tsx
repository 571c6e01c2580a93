import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { TicketSettings } from "../../shared/types";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { NumberField, TextInput } from "../kit/field";
import { LoadTrouble } from "../kit/states";
import { OwnFields } from "./own-fields";

const priorities: { name: "urgent" | "high" | "normal" | "low"; label: string }[] = [
  { name: "urgent", label: t`Urgent` },
  { name: "high", label: t`High` },
  { name: "normal", label: t`Normal` },
  { name: "low", label: t`Low` },
];

/** When tickets are due, and what is noted on them besides. */
export function TicketSettingsPage() {
  const settings = useQuery({
    queryKey: ["setup", "tickets"],
    queryFn: () => ask(api.GET("/api/setup/tickets")),
  });
  if (settings.isError) return <LoadTrouble error={settings.error} again={() => void settings.refetch()} />;
  if (!settings.data) return <section className="loading" aria-busy="true" />;
  return <Form kept={settings.data} />;
}

function Form({ kept }: { kept: TicketSettings }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing("tickets", kept);
  const s = editing.value;
  const change = (part: Partial<TicketSettings>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/tickets", { body: s })));
        await queries.invalidateQueries({ queryKey: ["setup", "tickets"] });
      },
      t`Ticket settings saved`,
    );
  return (
    <section className="editor" aria-label={t`Tickets`}>
      <header>
        <h2>
          <Trans>Tickets</Trans>
        </h2>
      </header>
      <div className="body">
        <h3>
          <Trans>Due after so many opening hours</Trans>
        </h3>
        <div className="fields">
          {priorities.map((p) => (
            <NumberField
              key={p.name}
              label={p.label}
              unit={t`open hours`}
              value={s[p.name]}
              change={(hours) => change({ [p.name]: hours })}
              wrong={saving.wrongAt(p.name)}
              none={t`never due`}
            />
          ))}
        </div>
        <p className="hint">
          <Trans>
            Counted in the hours of the ticket’s department, from when the customer began to wait. While the
            customer is waited for, nothing is due. What is due now stays so until the ticket moves on.
          </Trans>
        </p>
        <h3>
          <Trans>Calling back</Trans>
        </h3>
        <div className="fields">
          <TextInput
            label={t`Country of numbers without one`}
            value={s.region}
            change={(region) => change({ region })}
            most={2}
            wrong={saving.wrongAt("region")}
            hint={t`Two letters, like DK. Numbers that begin with + need none.`}
          />
        </div>
        <h3>
          <Trans>Fields on tickets</Trans>
        </h3>
        <OwnFields
          fields={s.fields}
          change={(fields) => change({ fields })}
          wrong={saving.wrongAt("fields")}
        />
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}
