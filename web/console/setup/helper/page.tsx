import "./helper.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../../shared/api";
import { listed } from "../../../shared/format";
import type { Flow, FlowView } from "../../../shared/types";
import { useEdited } from "../../forms/editing";
import { Picker } from "../../forms/parts";
import { useSaving } from "../../forms/saving";
import { Button } from "../../kit/button";
import { TextInput } from "../../kit/field";
import { LoadTrouble, Wrong } from "../../kit/states";
import { FlowEditor } from "./editor";
import { beginnings } from "./beginnings";

/** The helper's flows: a list, and the editor of the one that is picked. */
export function HelperPage() {
  const flows = useQuery({ queryKey: ["setup", "flows"], queryFn: () => ask(api.GET("/api/setup/flows")) });
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const choices = useQuery({
    queryKey: ["setup", "widget-choices"],
    queryFn: () => ask(api.GET("/api/setup/widget-choices")),
    staleTime: Infinity,
  });
  const [open, setOpen] = useState("");
  const edited = useEdited("flow");
  const failed = [flows, departments, choices].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!flows.data || !departments.data || !choices.data)
    return <section className="loading" aria-busy="true" />;
  const shown = flows.data.find((f) => f.id === open) ?? flows.data[0];
  const adds = open === "new" || !shown;
  return (
    <div className="two helper">
      <Picker
        title={t`Flows`}
        shown={adds ? "new" : shown.id}
        pick={setOpen}
        items={flows.data.map((f) => ({
          id: f.id,
          name: f.flow.name,
          about: <span className={f.widgets.length > 0 ? "is-open" : ""}>{standing(f)}</span>,
          unsaved: edited.has(f.id),
        }))}
      />
      {adds ? (
        <NewFlow made={setOpen} />
      ) : (
        <FlowEditor
          key={shown.id}
          kept={shown}
          departments={departments.data}
          languages={choices.data.languages}
          removed={() => setOpen("")}
        />
      )}
    </div>
  );
}

/** Says where a flow answers. */
function standing(f: FlowView): string {
  if (f.liveVersion === 0) return t`not published yet`;
  const where = f.widgets.length > 0 ? t`answers in ${listed(f.widgets)}` : t`answers in no widget`;
  return f.differs ? t`${where} · draft` : where;
}

function NewFlow({ made }: { made: (id: string) => void }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const [name, setName] = useState("");
  const add = (flow: Flow) =>
    void saving.run(
      async () => {
        const f = await ask(api.POST("/api/setup/flows", { body: flow }));
        await queries.invalidateQueries({ queryKey: ["setup", "flows"] });
        made(f.id);
      },
      t`${name} made. It answers nobody until you publish it and choose it for a widget`,
    );
  return (
    <section className="editor" aria-label={t`New flow`}>
      <header>
        <h2>
          <Trans>New flow</Trans>
        </h2>
      </header>
      <div className="body">
        <p className="about">
          <Trans>
            The helper answers visitors before a person does. A flow says what it asks, where it looks, and
            when it leaves a visitor to your team. A person is one press away at each step.
          </Trans>
        </p>
        <div className="fields">
          <TextInput
            label={t`Name, for the team`}
            value={name}
            change={setName}
            wrong={saving.wrongAt("name")}
            most={80}
          />
        </div>
        <Wrong words={saving.trouble} />
        <ul className="beginnings">
          {beginnings(name.trim()).map((b) => (
            <li key={b.name}>
              <b>{b.name}</b>
              <p>{b.about}</p>
              <Button variant="outlined" disabled={saving.busy || !name.trim()} onClick={() => add(b.flow)}>
                <Trans>Begin with this</Trans>
              </Button>
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}
