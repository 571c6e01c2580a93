import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { SiteDataView } from "../../shared/types";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving } from "../forms/saving";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { sayTrouble } from "../kit/say";
import { LoadTrouble, Wrong } from "../kit/states";

/** What the site tells of its visitors: which of it operators see, and with which keys it signs. */
export function SiteDataPage() {
  const settings = useQuery({
    queryKey: ["setup", "site-data"],
    queryFn: () => ask(api.GET("/api/setup/site-data")),
  });
  if (settings.isError) return <LoadTrouble error={settings.error} again={() => void settings.refetch()} />;
  if (!settings.data) return <section className="loading" aria-busy="true" />;
  return <Form kept={settings.data} />;
}

function Form({ kept }: { kept: SiteDataView }) {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing("site-data", kept);
  const d = editing.value;
  const change = (part: Partial<SiteDataView>) => {
    editing.change(part);
    saving.clear();
  };
  const again = () => queries.invalidateQueries({ queryKey: ["setup", "site-data"] });
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/site-data", { body: d })));
        await again();
      },
      t`Site data saved`,
    );
  return (
    <section className="editor" aria-label={t`Site data`}>
      <header>
        <h2>
          <Trans>Site data</Trans>
        </h2>
        <p>
          <Trans>
            The site's own scripts can tell who a visitor is and what is in their basket. How is written in
            the guide docs/guide/site.md.
          </Trans>
        </p>
      </header>
      <div className="body">
        <h3>
          <Trans>What operators see, in this order</Trans>
        </h3>
        <FieldList
          named={t`Field, as the site calls it`}
          list={d.fields}
          change={(fields) => change({ fields })}
          wrongAt={(at) => wrongAt(`fields${at}`)}
        />
        <h3>
          <Trans>What operators see of a customer's booking record, in this order</Trans>
        </h3>
        <p className="about">
          <Trans>Without any, they see all that the booking system says.</Trans>
        </p>
        <FieldList
          named={t`Field, as the booking system calls it`}
          list={d.record}
          change={(record) => change({ record })}
          wrongAt={(at) => wrongAt(`record${at}`)}
        />
        <h3>
          <Trans>Signing</Trans>
        </h3>
        <p className="about">
          <Trans>
            What the site signs cannot be pretended: only that joins contacts, and rules can ask for it as
            “signed by the site”.
          </Trans>
        </p>
        <div className="fields">
          <TextInput
            label={t`Audience of the tokens`}
            value={d.audience}
            change={(audience) => change({ audience })}
            wrong={wrongAt("audience")}
            most={200}
          />
        </div>
        <Keys keys={kept.keys ?? []} again={again} />
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}

interface FieldListProps {
  /** What the names are. */
  named: string;
  list: Shown[];
  change: (list: Shown[]) => void;
  wrongAt: (at: string) => string | undefined;
}

type Shown = SiteDataView["fields"][number];

/** Which fields of somewhere else are shown, in which order, and as what. */
function FieldList({ named, list, change, wrongAt }: FieldListProps) {
  const set = (i: number, part: Partial<Shown>) =>
    change(list.map((f, at) => (at === i ? { ...f, ...part } : f)));
  const move = (i: number) => {
    const next = [...list];
    const [one] = next.splice(i, 1);
    if (one) next.splice(i - 1, 0, one);
    change(next);
  };
  return (
    <>
      {list.map((f, i) => (
        <div key={i} className="fields">
          <TextInput
            label={named}
            value={f.name}
            change={(name) => set(i, { name })}
            wrong={wrongAt(`.${i}.name`)}
            placeholder="tier"
            most={60}
          />
          <TextInput
            label={t`Shown as`}
            value={f.label}
            change={(label) => set(i, { label })}
            placeholder={f.name}
            most={60}
          />
          <Button disabled={i === 0} onClick={() => move(i)}>
            <Trans>Move up</Trans>
          </Button>
          <Button startIcon={<Icons.Bin />} onClick={() => change(list.filter((_, at) => at !== i))}>
            <Trans>Remove</Trans>
          </Button>
        </div>
      ))}
      <Button startIcon={<Icons.Plus />} onClick={() => change([...list, { name: "", label: "" }])}>
        <Trans>Add a field</Trans>
      </Button>
      <Wrong words={wrongAt("")} />
    </>
  );
}

function Keys({ keys, again }: { keys: NonNullable<SiteDataView["keys"]>; again: () => Promise<void> }) {
  const [made, setMade] = useState<{ id: string; secret: string } | undefined>();
  const add = () => {
    ask(api.POST("/api/setup/site-data/keys")).then(async (key) => {
      setMade(key);
      await again();
    }, sayTrouble);
  };
  const remove = (id: string) => {
    ask(api.DELETE("/api/setup/site-data/keys/{id}", { params: { path: { id } } })).then(async () => {
      if (made?.id === id) setMade(undefined);
      await again();
    }, sayTrouble);
  };
  return (
    <>
      <ul className="keys">
        {keys.map((k) => (
          <li key={k.id} className="row">
            <code>{k.id}</code>
            <span className="meta">
              <Trans>made {dayAndTime(k.createdAt)}</Trans>
            </span>
            <Button onClick={() => remove(k.id)}>
              <Trans>Retire</Trans>
            </Button>
          </li>
        ))}
      </ul>
      {keys.length === 0 ? (
        <p className="nothing">
          <Trans>No keys yet: nothing that is signed is accepted.</Trans>
        </p>
      ) : null}
      {made ? (
        <p className="secret" role="status">
          <Trans>
            Copy the secret of key <code>{made.id}</code> now, it is shown this once:
          </Trans>{" "}
          <code className="copy">{made.secret}</code>
        </p>
      ) : null}
      <Button startIcon={<Icons.Plus />} variant="outlined" onClick={add}>
        <Trans>New key</Trans>
      </Button>
    </>
  );
}
