import "./webhooks.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../../shared/api";
import { dayAndTime } from "../../../shared/format";
import type { DeliveryView, WebhookView } from "../../../shared/types";
import { useEdited, useEditing, useGone } from "../../forms/editing";
import { Picker, SaveBar } from "../../forms/parts";
import { Removal } from "../../forms/removal";
import { useSaving } from "../../forms/saving";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { Tick } from "../../kit/choice";
import { TextInput } from "../../kit/field";
import { say, sayTrouble } from "../../kit/say";
import { LoadTrouble, Wrong } from "../../kit/states";
import { eventWords } from "./events";
import { DeliveryLog } from "./log";

// How often it is looked how they stand, in milliseconds.
const lookEvery = 10_000;

const fresh: WebhookView = {
  version: 0,
  name: "",
  url: "",
  kinds: [],
  departments: [],
  waiting: 0,
  dropped: 0,
};

/** Other systems that are told what happens in chats. */
export function WebhooksPage() {
  const list = useQuery({
    queryKey: ["webhooks"],
    queryFn: () => ask(api.GET("/api/webhooks")),
    refetchInterval: lookEvery,
  });
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const [open, setOpen] = useState("");
  const edited = useEdited("webhook");
  useGone(
    "webhook",
    list.isSuccess ? { ids: list.data.map((w) => w.id ?? ""), at: list.dataUpdatedAt } : undefined,
    fresh,
    (lost, webhook) => {
      say(t`${webhook.name} was deleted by a colleague. What you typed is kept under New.`);
      if (lost === open) setOpen("new");
    },
  );
  const failed = [list, departments].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!list.data || !departments.data) return <section className="loading" aria-busy="true" />;
  const all = list.data;
  const shown = open === "new" ? fresh : (all.find((w) => w.id === open) ?? all[0] ?? fresh);
  return (
    <div className="two">
      <Picker
        title={t`Webhooks`}
        shown={shown.id}
        pick={setOpen}
        newUnsaved={edited.has("new")}
        items={all.map((w) => ({
          id: w.id ?? "",
          name: w.name,
          unsaved: edited.has(w.id ?? ""),
          about: <span>{stateWords(w)}</span>,
        }))}
      />
      <WebhookForm
        key={shown.id ?? "new"}
        kept={shown}
        departments={departments.data.map((d) => ({ id: d.id ?? "", name: d.name }))}
        onSaved={setOpen}
      />
    </div>
  );
}

/** How a webhook stands. */
function stateWords(w: WebhookView): string {
  if (w.off) return t`off`;
  if (w.pausedAt) return t`paused, it keeps failing`;
  if (w.failingSince) return t`failing since ${dayAndTime(w.failingSince)}`;
  return w.waiting > 0
    ? plural(w.waiting, { one: "# message waiting", other: "# messages waiting" })
    : t`working`;
}

interface FormProps {
  kept: WebhookView;
  departments: { id: string; name: string }[];
  onSaved: (id: string) => void;
}

function WebhookForm({ kept, departments, onSaved }: FormProps) {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const editing = useEditing(`webhook.${kept.id ?? "new"}`, kept);
  const w = editing.value;
  const [tested, setTested] = useState<DeliveryView>();
  const id = kept.id ?? "";
  const change = (part: Partial<WebhookView>) => {
    editing.change(part);
    saving.clear();
  };
  const again = () => queries.invalidateQueries({ queryKey: ["webhooks"] });
  const save = () =>
    void saving.run(
      async () => {
        const { version, name, url, kinds, departments, off } = w;
        const body = {
          ...(kept.id ? { id: kept.id } : {}),
          ...(off ? { off } : {}),
          ...{ version, name, url, kinds, departments, waiting: 0, dropped: 0 },
        };
        const saved = await ask(api.PUT("/api/webhooks", { body }));
        editing.saved(saved, `webhook.${saved.id ?? "new"}`);
        await again();
        onSaved(saved.id ?? "");
      },
      t`${w.name} saved`,
    );
  const remove = () =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/webhooks/{id}", { params: { path: { id } } }));
        editing.undo();
        await again();
        onSaved("");
      },
      t`${kept.name} deleted`,
    );
  const act = (what: "secret" | "resume") => {
    const params = { path: { id } };
    const done =
      what === "secret"
        ? ask(api.POST("/api/webhooks/{id}/secret", { params }))
        : ask(api.POST("/api/webhooks/{id}/resume", { params }));
    done.then(() => void again(), sayTrouble);
  };
  const test = () => {
    ask(api.POST("/api/webhooks/{id}/test", { params: { path: { id } } })).then((delivery) => {
      setTested(delivery);
      void queries.invalidateQueries({ queryKey: ["deliveries", id] });
    }, sayTrouble);
  };
  const some = (list: string[], one: string, on: boolean) =>
    on ? [...list, one] : list.filter((k) => k !== one);
  return (
    <section className="editor webhooks" aria-label={kept.name || t`New webhook`}>
      <header>
        <h2>{kept.name || t`New webhook`}</h2>
        {id ? (
          <span className="acts">
            <Button onClick={test} disabled={editing.changed}>
              <Trans>Send a test</Trans>
            </Button>
            <Removal question={t`Delete it with its log?`} remove={remove} />
          </span>
        ) : null}
      </header>
      <div className="body">
        {kept.pausedAt ? (
          <p className="conflict" role="alert">
            <Icons.Warning />{" "}
            <Trans>
              Paused {dayAndTime(kept.pausedAt)}: the address did nothing but fail. What happens waits for it,
              for a week.
            </Trans>{" "}
            <Button variant="outlined" onClick={() => act("resume")}>
              <Trans>Try again now</Trans>
            </Button>
          </p>
        ) : null}
        {tested ? (
          <p role="status" className={tested.failed ? "wrong" : "well"}>
            {tested.failed
              ? t`The test failed: ${tested.answer ?? ""}`
              : t`The test arrived; it answered with ${tested.status ?? 0}.`}
          </p>
        ) : null}
        <div className="fields">
          <TextInput
            label={t`Name`}
            value={w.name}
            change={(name) => change({ name })}
            wrong={wrongAt("name")}
            most={80}
          />
          <TextInput
            label={t`Address`}
            value={w.url}
            placeholder="https://www.example.com/hook"
            change={(url) => change({ url })}
            wrong={wrongAt("url")}
            most={2000}
          />
        </div>
        <Tick checked={w.off === true} change={(off) => change({ off })}>
          <Trans>Off: it is told nothing, and does not learn later what happened meanwhile</Trans>
        </Tick>
        <h3>
          <Trans>What it is told; nothing ticked is everything</Trans>
        </h3>
        <div className="ticks">
          {eventWords.map(({ kind, words }) => (
            <Tick
              key={kind}
              checked={w.kinds.includes(kind)}
              change={(on) => change({ kinds: some(w.kinds, kind, on) })}
            >
              {words}
            </Tick>
          ))}
        </div>
        <Wrong words={wrongAt("kinds")} />
        <h3>
          <Trans>Of which departments; nothing ticked is all</Trans>
        </h3>
        <div className="ticks">
          {departments.map((d) => (
            <Tick
              key={d.id}
              checked={w.departments.includes(d.id)}
              change={(on) => change({ departments: some(w.departments, d.id, on) })}
            >
              {d.name}
            </Tick>
          ))}
        </div>
        <Wrong words={wrongAt("departments")} />
        {kept.secret ? (
          <>
            <h3>
              <Trans>Secret</Trans>
            </h3>
            <p className="secret">
              <code>{kept.secret}</code>
              <Button
                startIcon={<Icons.Copy />}
                onClick={() => {
                  navigator.clipboard
                    .writeText(kept.secret ?? "")
                    .then(() => say(t`Copied`, "success"), sayTrouble);
                }}
              >
                <Trans>Copy</Trans>
              </Button>
              <Button onClick={() => act("secret")}>
                <Trans>Make another</Trans>
              </Button>
            </p>
            <p className="hint">
              {kept.formerUntil
                ? t`Until ${dayAndTime(kept.formerUntil)} messages are signed with the former secret as well.`
                : t`Messages are signed with it by the Standard Webhooks specification. After a change both secrets hold for a day.`}
            </p>
          </>
        ) : null}
        {kept.dropped > 0 ? (
          <p className="wrong">
            {plural(kept.dropped, {
              one: "# message was too much to keep and is lost.",
              other: "# messages were too many to keep and are lost.",
            })}
          </p>
        ) : null}
        {id ? <DeliveryLog webhookId={id} /> : null}
      </div>
      <SaveBar saving={saving} editing={editing} save={save} theirWords={(theirs) => theirs.url} />
    </section>
  );
}
