import "./start.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { useMe } from "../desk/provider";
import { useSaving } from "../forms/saving";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Combo } from "../kit/combo";
import { TextInput } from "../kit/field";
import { LoadTrouble, Wrong } from "../kit/states";
import { Copied } from "./widgets/copied";
import { NameAndSiteFields } from "./widgets/name-and-site";
import { Reached } from "./widgets/reached";
import { dayName, weekDays } from "./week";

const askEvery = 3000;
const zones = Intl.supportedValuesOf("timeZone");

/** From nothing to a chat on the site: what is done, what is missing, and the next thing to do. */
export function StartPage() {
  const progress = useQuery({
    queryKey: ["setup", "progress"],
    queryFn: () => ask(api.GET("/api/setup/progress")),
    refetchInterval: (q) => (q.state.data?.chat ? false : askEvery),
  });
  if (progress.isError) return <LoadTrouble error={progress.error} again={() => void progress.refetch()} />;
  if (!progress.data) return <section className="loading" aria-busy="true" />;
  const p = progress.data;
  const steps: { id: string; name: string; done: boolean; body: ReactNode }[] = [
    { id: "account", name: t`Your account`, done: true, body: null },
    { id: "site", name: t`Your site`, done: p.site, body: <Site /> },
    { id: "department", name: t`Who answers, and when`, done: p.department, body: <FirstDepartment /> },
    { id: "looks", name: t`Looks and words`, done: p.looks, body: <Looks widget={p.widget} /> },
    { id: "line", name: t`The line on your site`, done: p.seen, body: <Line widget={p.widget} /> },
    { id: "chat", name: t`A first chat`, done: p.chat, body: <TestChat widget={p.widget} /> },
  ];
  const next = steps.find((s) => !s.done);
  const left = steps.filter((s) => !s.done).length;
  return (
    <section className="editor start" aria-label={t`Getting started`}>
      <header>
        <h2>
          <Trans>Getting started</Trans>
        </h2>
        <span className={left === 0 ? "now is-open" : "now"}>
          {left === 0 ? t`Everything is there.` : t`${steps.length - left} of ${steps.length} done`}
        </span>
      </header>
      <div className="body">
        <ol className="steps">
          {steps.map((s) => (
            <li key={s.id} className={s.done ? "done" : s === next ? "next" : ""}>
              <h3>
                {s.done ? <Icons.Check /> : <i aria-hidden="true" />} {s.name}
                <small>{s.done ? t`done` : s === next ? t`next` : t`missing`}</small>
              </h3>
              {s === next || (s.id === "chat" && p.looks && !s.done) ? s.body : null}
            </li>
          ))}
        </ol>
        {left === 0 ? (
          <p>
            <Trans>
              The chat is on your site and was answered. What else there is:{" "}
              <Link to="/setup/team">invite colleagues</Link>,{" "}
              <Link to="/setup/rules">send chats where they belong</Link>,{" "}
              <Link to="/setup/invitations">invite visitors</Link>.
            </Trans>
          </p>
        ) : null}
        {!p.mails ? (
          <p className="about">
            <Trans>
              No mail can be sent yet: answers reach visitors only while they are there. Whoever runs the
              server sets STOOP_SMTP.
            </Trans>
          </p>
        ) : null}
      </div>
    </section>
  );
}

function useReread(): () => Promise<void> {
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: ["setup"] });
}

function Site() {
  const saving = useSaving();
  const reread = useReread();
  const [fresh, setFresh] = useState({ name: "", site: "" });
  const { name, site } = fresh;
  const [zone, setZone] = useState(Intl.DateTimeFormat().resolvedOptions().timeZone);
  const save = () =>
    void saving.run(
      async () => {
        const now = await ask(api.GET("/api/setup/site"));
        await ask(api.PUT("/api/setup/site", { body: { ...now, zone } }));
        await ask(api.POST("/api/setup/widgets", { body: fresh }));
        await reread();
      },
      t`${name} saved`,
    );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <div className="fields">
        <NameAndSiteFields value={fresh} change={setFresh} saving={saving} />
        <Combo
          label={t`Time zone`}
          value={zone}
          change={setZone}
          options={zones}
          wrong={saving.wrongAt("zone")}
        />
      </div>
      <Wrong words={saving.trouble} />
      <Button type="submit" variant="contained" disabled={saving.busy || !name.trim() || !site.trim()}>
        <Trans>Go on</Trans>
      </Button>
    </form>
  );
}

function FirstDepartment() {
  const me = useMe();
  const saving = useSaving();
  const reread = useReread();
  const site = useQuery({ queryKey: ["setup", "site"], queryFn: () => ask(api.GET("/api/setup/site")) });
  const [name, setName] = useState(t`Support`);
  const [days, setDays] = useState<number[]>([1, 2, 3, 4, 5]);
  const [from, setFrom] = useState("09:00");
  const [to, setTo] = useState("17:00");
  const [always, setAlways] = useState(false);
  const save = () =>
    void saving.run(
      async () => {
        const departments = await ask(api.GET("/api/setup/departments"));
        const first = departments.find((d) => d.isDefault);
        if (!first) return;
        let hoursId = "";
        if (!always) {
          const zone = site.data?.zone || Intl.DateTimeFormat().resolvedOptions().timeZone;
          // Somebody who stopped halfway has made them before.
          const before = (await ask(api.GET("/api/setup/hours"))).find((h) => h.name === name);
          const body = {
            ...(before ?? { version: 0, name, exceptions: [] }),
            zone,
            weekly: days.map((day) => ({ day, from, to })),
          };
          hoursId = (await ask(api.PUT("/api/setup/hours", { body }))).id ?? "";
        }
        const mine = { operatorId: me.id, backup: false };
        const members = first.members.some((m) => m.operatorId === me.id)
          ? first.members
          : [...first.members, mine];
        await ask(
          api.PUT("/api/setup/departments", {
            body: { ...first, name, members, ...(hoursId ? { hoursId } : { hoursId: undefined }) },
          }),
        );
        await reread();
      },
      t`${name} saved`,
    );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <p className="about">
        <Trans>A department is a team with its hours and its queue. You are its first member.</Trans>
      </p>
      <div className="fields">
        <TextInput
          label={t`Department`}
          value={name}
          change={setName}
          wrong={saving.wrongAt("name")}
          most={60}
        />
        <TextInput
          label={t`Open from`}
          value={from}
          change={setFrom}
          wrong={always ? undefined : saving.wrongAt("weekly.0")}
          most={5}
        />
        <TextInput label={t`Until`} value={to} change={setTo} most={5} />
      </div>
      <div className="row days">
        {weekDays.map((day) => (
          <Tick
            key={day}
            checked={!always && days.includes(day)}
            change={(on) => setDays(on ? [...days, day].sort() : days.filter((d) => d !== day))}
          >
            {dayName(day)}
          </Tick>
        ))}
      </div>
      <Tick checked={always} change={setAlways}>
        <Trans>Around the clock</Trans>
      </Tick>
      <Wrong words={saving.trouble || (saving.amiss && !saving.wrongAt("name") ? t`Check the times.` : "")} />
      <Button
        type="submit"
        variant="contained"
        disabled={saving.busy || !name.trim() || (!always && days.length === 0)}
      >
        <Trans>Go on</Trans>
      </Button>
    </form>
  );
}

/** The widget that is being set up, as it is stored. */
function useWidget(key: string | undefined) {
  const widgets = useQuery({
    queryKey: ["setup", "widgets"],
    queryFn: () => ask(api.GET("/api/setup/widgets")),
  });
  return widgets.data?.find((w) => w.key === key);
}

function Looks({ widget }: { widget: string | undefined }) {
  const saving = useSaving();
  const reread = useReread();
  const kept = useWidget(widget);
  const [colour, setColour] = useState("");
  const [title, setTitle] = useState("");
  if (!kept) return null;
  const design = { ...kept.design, colour: colour || kept.design.colour, title: title || kept.design.title };
  const publish = () =>
    void saving.run(
      async () => {
        const params = { path: { key: kept.key } };
        const body = { design, version: kept.version, draft: kept.draft?.version ?? 0 };
        await ask(api.POST("/api/setup/widgets/{key}/publish", { params, body }));
        await reread();
      },
      t`${kept.design.name} published`,
    );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        publish();
      }}
    >
      <div className="fields">
        <TextInput
          label={t`Launcher text`}
          value={title}
          change={setTitle}
          placeholder={kept.design.title}
          wrong={saving.wrongAt("title")}
          most={60}
        />
        <label className="pick">
          <input type="color" value={design.colour} onChange={(e) => setColour(e.target.value)} />
          <Trans>Your colour</Trans>
        </label>
      </div>
      <p className="about">
        <Trans>
          All the rest, with a preview, is under <Link to="/setup/widgets">Widgets</Link>, now or later.
        </Trans>
      </p>
      <Wrong
        words={
          saving.trouble || (saving.amiss ? t`Look under Widgets: something there must be mended first.` : "")
        }
      />
      <Button type="submit" variant="contained" disabled={saving.busy}>
        <Trans>Publish</Trans>
      </Button>
    </form>
  );
}

function Line({ widget }: { widget: string | undefined }) {
  const installation = useQuery({
    queryKey: ["setup", "widget-installation", widget],
    queryFn: () =>
      ask(api.GET("/api/setup/widgets/{key}/installation", { params: { path: { key: widget ?? "" } } })),
    enabled: widget !== undefined,
  });
  if (!installation.data) return null;
  return (
    <>
      <p className="about">
        <Trans>
          Put this right before the closing body tag of each page. This step is done by itself when the first
          page with it is opened.
        </Trans>
      </p>
      <Reached link={installation.data.link} />
      <Copied text={installation.data.snippet} label={t`Copy the line`} />
      <p className="about">
        <Trans>
          Mail it to whoever keeps the site, or check a page:{" "}
          <Link to="/setup/widgets">Widgets, On the site</Link>.
        </Trans>
      </p>
    </>
  );
}

function TestChat({ widget }: { widget: string | undefined }) {
  return (
    <>
      <p className="about">
        <Trans>
          Make yourself available at the top right. Then write as a visitor, take the chat on the Desk, and
          answer.
        </Trans>
      </p>
      <div className="row">
        <Button variant="contained" href={`/panel/${encodeURIComponent(widget ?? "")}`} target="_blank">
          <Trans>Write as a visitor</Trans>
        </Button>
        <Link to="/desk">
          <Trans>To the Desk</Trans>
        </Link>
      </div>
    </>
  );
}
