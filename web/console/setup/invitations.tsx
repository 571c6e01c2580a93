import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { locale } from "../../shared/speak";
import type {
  DepartmentSettings,
  InvitationCounts,
  InvitationRule,
  InvitationSettings,
} from "../../shared/types";
import { uuid } from "../../shared/uuid";
import { useEditing } from "../forms/editing";
import { SaveBar } from "../forms/parts";
import { useSaving, type Saving } from "../forms/saving";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { Tick } from "../kit/choice";
import { NumberField, TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";
import { Conditions, conditionWords, whenWords } from "./conditions";
import { PagePatterns } from "./page-patterns";

/** When visitors are invited to a chat, and what came of it. */
export function InvitationsPage() {
  const settings = useQuery({
    queryKey: ["setup", "invitations"],
    queryFn: () => ask(api.GET("/api/setup/invitations")),
  });
  const departments = useQuery({
    queryKey: ["setup", "departments"],
    queryFn: () => ask(api.GET("/api/setup/departments")),
  });
  const counts = useQuery({
    queryKey: ["invitation-counts"],
    queryFn: () => ask(api.GET("/api/invitations/counts")),
    refetchInterval: 15_000,
  });
  const failed = [settings, departments].find((q) => q.isError);
  if (failed) return <LoadTrouble error={failed.error} again={() => void failed.refetch()} />;
  if (!settings.data || !departments.data) return <section className="loading" aria-busy="true" />;
  return <Form kept={settings.data} departments={departments.data} counts={counts.data ?? []} />;
}

interface FormProps {
  kept: InvitationSettings;
  departments: DepartmentSettings[];
  counts: InvitationCounts[];
}

function Form({ kept, departments, counts }: FormProps) {
  const queries = useQueryClient();
  const saving = useSaving();
  const editing = useEditing("invitations", kept);
  const { rules, limits } = editing.value;
  const [open, setOpen] = useState("");
  const change = (part: Partial<InvitationSettings>) => {
    editing.change(part);
    saving.clear();
  };
  const limit = (label: string, field: keyof InvitationSettings["limits"], unit?: string, hint?: string) => (
    <NumberField
      label={label}
      {...(unit ? { unit } : {})}
      {...(hint ? { hint } : {})}
      value={limits[field]}
      change={(value) => change({ limits: { ...limits, [field]: value } })}
      wrong={saving.wrongAt(`limits.${field}`)}
    />
  );
  const set = (i: number, rule: InvitationRule) =>
    change({ rules: rules.map((one, at) => (at === i ? rule : one)) });
  const move = (i: number, by: number) => {
    const next = [...rules];
    const [one] = next.splice(i, 1);
    if (one) next.splice(i + by, 0, one);
    change({ rules: next });
  };
  const add = () => {
    const id = uuid();
    change({
      rules: [
        ...rules,
        {
          id,
          name: "",
          on: true,
          match: "all",
          conditions: [{ field: "page.seconds", operator: "at-least", value: "60" }],
          pages: [],
          text: "",
          share: 100,
        },
      ],
    });
    setOpen(id);
  };
  const save = () =>
    void saving.run(
      async () => {
        editing.saved(await ask(api.PUT("/api/setup/invitations", { body: editing.value })));
        await queries.invalidateQueries({ queryKey: ["setup", "invitations"] });
      },
      t`Invitations saved`,
    );
  const byHand = counts.find((c) => c.ruleId === "");
  return (
    <section className="editor invitations" aria-label={t`Invitations`}>
      <header>
        <h2>
          <Trans>Invitations</Trans>
        </h2>
        <p>
          <Trans>
            A visitor who matches is invited by a member who can answer. The first rule that matches decides;
            nobody is invited while nobody has room.
          </Trans>
        </p>
      </header>
      <div className="body">
        <ol className="rule-list">
          {rules.map((rule, i) => {
            const shown = open === rule.id;
            return (
              <li key={rule.id} className={rule.on ? "rule" : "rule off"}>
                <div className="rule-head">
                  <span className="order">
                    <IconButton
                      size="small"
                      aria-label={t`Move ${rule.name || t`this rule`} up`}
                      disabled={i === 0}
                      onClick={() => move(i, -1)}
                    >
                      <span className="turn up">
                        <Icons.Down />
                      </span>
                    </IconButton>
                    <IconButton
                      size="small"
                      aria-label={t`Move ${rule.name || t`this rule`} down`}
                      disabled={i === rules.length - 1}
                      onClick={() => move(i, 1)}
                    >
                      <Icons.Down />
                    </IconButton>
                  </span>
                  <button
                    className="summary"
                    aria-expanded={shown}
                    onClick={() => setOpen(shown ? "" : rule.id)}
                  >
                    <b>{rule.name || t`Unnamed rule`}</b>
                    <span>
                      {summary(rule)} → “{rule.text || "…"}”
                    </span>
                  </button>
                  <label className="switch">
                    <input
                      type="checkbox"
                      checked={rule.on}
                      onChange={(e) => set(i, { ...rule, on: e.target.checked })}
                    />
                    {rule.on ? t`on` : t`off`}
                  </label>
                </div>
                <Came counts={counts.find((c) => c.ruleId === rule.id)} other={(rule.other ?? "") !== ""} />
                {shown ? (
                  <Rule
                    rule={rule}
                    index={i}
                    change={(next) => set(i, next)}
                    remove={() => change({ rules: rules.filter((one) => one.id !== rule.id) })}
                    departments={departments}
                    saving={saving}
                  />
                ) : null}
              </li>
            );
          })}
        </ol>
        {rules.length === 0 ? (
          <p className="nothing">
            <Trans>No rules yet: visitors are invited by hand only, from Visitors.</Trans>
          </p>
        ) : null}
        <Button startIcon={<Icons.Plus />} variant="outlined" onClick={add}>
          <Trans>New rule</Trans>
        </Button>
        <Wrong words={saving.wrongAt("rules")} />
        {byHand ? (
          <>
            <h3>
              <Trans>Invited by hand</Trans>
            </h3>
            <Came counts={byHand} other={false} />
          </>
        ) : null}
        <h3>
          <Trans>So that nobody is pestered</Trans>
        </h3>
        <div className="fields">
          {limit(t`In one visit at most`, "perVisit")}
          {limit(t`In seven days at most`, "perWeek")}
          {limit(t`Quiet after a refusal`, "quietHours", t`hours`)}
          {limit(t`Between two`, "apart", t`seconds`)}
          {limit(t`Shown for`, "stays", t`seconds`)}
        </div>
      </div>
      <SaveBar saving={saving} editing={editing} save={save} />
    </section>
  );
}

/** Puts into one line whom a rule invites. */
function summary(rule: InvitationRule): string {
  const parts = [...rule.pages, ...rule.conditions.map(conditionWords)];
  return parts.length > 0 ? whenWords(parts, rule.match === "any") : "";
}

function percent(share: number): string {
  return new Intl.NumberFormat(locale(), { style: "percent", maximumFractionDigits: 0 }).format(share);
}

/** What came of invitations, as shares of those to whom they were shown, with what is sure of them. */
function Came({ counts, other }: { counts: InvitationCounts | undefined; other: boolean }) {
  if (!counts) return null;
  const shown = counts.first.shown + counts.second.shown;
  const parts = [
    { name: t`accepted`, n: counts.first.accepted + counts.second.accepted, of: counts.accepted },
    { name: t`wrote`, n: counts.first.answered + counts.second.answered, of: counts.answered },
    { name: t`with an outcome`, n: counts.first.outcomes + counts.second.outcomes, of: counts.outcomes },
  ];
  return (
    <p className="came">
      {plural(shown, { one: "Shown to # in 30 days", other: "Shown to # in 30 days" })}
      {shown > 0
        ? parts.map(({ name, n, of }) => (
            <span
              key={name}
              title={t`With 95 % confidence between ${percent(of.low)} and ${percent(of.high)}`}
            >
              {" · "}
              {n} {name}{" "}
              {shown < 20
                ? t`(too few to tell)`
                : t`(${percent(of.share)}, surely ${percent(of.low)} to ${percent(of.high)})`}
            </span>
          ))
        : null}
      {other && shown > 0 ? (
        <span>
          {" · "}
          {t`texts ${counts.first.answered} of ${counts.first.shown} and ${counts.second.answered} of ${counts.second.shown} wrote`}
        </span>
      ) : null}
      {counts.compared > 0 ? (
        <span>
          {" · "}
          {plural(counts.compared, {
            one: "# not invited, to compare",
            other: "# not invited, to compare",
          })}
          {counts.compared >= 20 ? t` (${percent(counts.wroteThemself.share)} wrote by themselves)` : ""}
        </span>
      ) : null}
    </p>
  );
}

interface RuleProps {
  rule: InvitationRule;
  index: number;
  change: (rule: InvitationRule) => void;
  remove: () => void;
  departments: DepartmentSettings[];
  saving: Saving;
}

function Rule({ rule, index, change, remove, departments, saving }: RuleProps) {
  const wrong = (part: string) => saving.wrongAt(`rules.${index}.${part}`);
  return (
    <div className="rule-body">
      <div className="fields">
        <TextInput
          label={t`Name`}
          value={rule.name}
          change={(name) => change({ ...rule, name })}
          wrong={wrong("name")}
          most={80}
        />
        <PagePatterns
          label={t`On pages`}
          value={rule.pages}
          change={(pages) => change({ ...rule, pages })}
          wrong={wrong("pages")}
          placeholder={t`all pages`}
        />
        <Select
          label={t`Conditions`}
          value={rule.match}
          change={(match) => change({ ...rule, match })}
          wrong={wrong("match")}
          options={[
            { value: "all", label: t`all must hold` },
            { value: "any", label: t`one is enough` },
          ]}
        />
      </div>
      <Conditions
        list={rule.conditions}
        change={(conditions) => change({ ...rule, conditions })}
        wrong={(j) => wrong(`conditions.${j}`)}
        first={{ field: "page.seconds", operator: "at-least", value: "60" }}
      />
      <Wrong words={wrong("conditions")} />
      <h3>
        <Trans>Then</Trans>
      </h3>
      <div className="fields wide">
        <TextInput
          label={t`Words of the invitation`}
          value={rule.text}
          change={(text) => change({ ...rule, text })}
          wrong={wrong("text")}
          most={300}
        />
        <TextInput
          label={t`Other words, for half of them`}
          value={rule.other ?? ""}
          change={(other) => change({ ...rule, other })}
          hint={t`Empty: all read the same. Otherwise what came of each is counted apart.`}
          most={300}
        />
      </div>
      <div className="fields">
        <Select
          label={t`Answered by`}
          value={rule.department ?? ""}
          change={(department) => change({ ...rule, department })}
          wrong={wrong("department")}
          options={[
            { value: "", label: t`where the chat would go` },
            ...departments.map((d) => ({ value: d.id ?? "", label: d.name })),
          ]}
        />
        <NumberField
          label={t`Invite of a hundred who match`}
          value={rule.share}
          change={(share) => change({ ...rule, share })}
          wrong={wrong("share")}
          hint={t`The others are counted, to compare.`}
        />
      </div>
      <div className="row">
        <Tick checked={rule.opens ?? false} change={(opens) => change({ ...rule, opens })}>
          <Trans>Open the chat by itself instead of showing a card, unless the visitor is typing</Trans>
        </Tick>
        <Button startIcon={<Icons.Bin />} onClick={remove}>
          <Trans>Remove rule</Trans>
        </Button>
      </div>
    </div>
  );
}
