import "./acting.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { api, ask } from "../../../shared/api";
import type { ActingRule, ActingSettings } from "../../../shared/types";
import { uuid } from "../../../shared/uuid";
import { useEditing } from "../../forms/editing";
import { Picker, SaveBar } from "../../forms/parts";
import { usePicked } from "../../forms/picked";
import { useSaving } from "../../forms/saving";
import { LoadTrouble } from "../../kit/states";
import { RuleForm, type Choices } from "./rule-form";
import { doWords, whenWords } from "./words";

/** Rules that act: what is done by itself in chats. */
export function ActingPage() {
  const rules = useQuery({
    queryKey: ["setup", "acting"],
    queryFn: () => ask(api.GET("/api/setup/acting")),
  });
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const webhooks = useQuery({ queryKey: ["webhooks"], queryFn: () => ask(api.GET("/api/webhooks")) });
  const failed = [rules, departments, webhooks].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!rules.data || !departments.data || !webhooks.data)
    return <section className="loading" aria-busy="true" />;
  return (
    <Rules
      kept={{ version: rules.data.version, rules: rules.data.rules }}
      choices={{
        occasions: rules.data.occasions,
        fields: rules.data.fields,
        departments: departments.data.map((d) => ({ value: d.id ?? "", label: d.name })),
        webhooks: webhooks.data.map((w) => ({ value: w.id ?? "", label: w.name })),
      }}
    />
  );
}

const fresh = (): ActingRule => ({
  id: uuid(),
  name: "",
  on: true,
  when: "waits",
  seconds: 60,
  departments: [],
  match: "all",
  if: [],
  do: [],
});

function Rules({ kept, choices }: { kept: ActingSettings; choices: Choices }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing("acting", kept);
  const { rules } = editing.value;
  const change = (next: ActingRule[]) => {
    editing.change({ rules: next });
    saving.clear();
  };
  const { at, shown, pick, edit, remove, unsaved } = usePicked(rules, kept.rules, change, fresh);
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/acting", { body: editing.value })));
        await queries.invalidateQueries({ queryKey: ["setup", "acting"] });
      },
      t`Rules saved and in effect`,
    );
  return (
    <div className="two">
      <Picker
        title={t`Rules that act`}
        shown={shown?.id}
        pick={pick}
        items={rules.map((r) => ({
          id: r.id,
          name: r.name || t`(no name yet)`,
          unsaved: unsaved(r),
          about: <span>{r.on ? `${whenWords(r)}, ${doWords(r.do)}` : t`off`}</span>,
        }))}
      />
      <section className="editor acting" aria-label={shown?.name || t`New rule`}>
        {shown ? (
          <RuleForm
            key={shown.id}
            rule={shown}
            saved={kept.rules.some((k) => k.id === shown.id)}
            choices={choices}
            edit={edit}
            remove={remove}
            wrong={(part) => saving.wrongAt(`rules.${at}${part}`)}
          />
        ) : (
          <div className="body">
            <p className="nothing">
              <Trans>
                No rules yet. A rule does something by itself: when a chat begins, waits, falls silent, ends
                or is rated poor, or when a message is left.
              </Trans>
            </p>
          </div>
        )}
        <SaveBar
          saving={saving}
          editing={editing}
          save={save}
          theirWords={(theirs) => theirs.rules.map((r) => r.name).join(", ")}
        />
      </section>
    </div>
  );
}
