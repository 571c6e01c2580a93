import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useMemo, useState } from "react";

import { api, ask } from "../../../shared/api";
import type { DepartmentSettings, Flow, FlowView } from "../../../shared/types";
import { useEditing } from "../../forms/editing";
import { SaveBar } from "../../forms/parts";
import { useSaving } from "../../forms/saving";
import { Button } from "../../kit/button";
import { Confirm } from "../../kit/confirm";
import { TextInput } from "../../kit/field";
import { LoadTrouble, Wrong } from "../../kit/states";
import { fieldWords } from "../../words/fields";
import { Drawing } from "./drawing";
import { FlowHistory } from "./history";
import { FlowLanguages } from "./languages-part";
import { StepList } from "./step-list";
import { FlowTrial } from "./trial";

const parts = ["steps", "languages", "history"] as const;
type Part = (typeof parts)[number];

function partName(part: Part): string {
  return { steps: t`Steps`, languages: t`Languages`, history: t`History` }[part];
}

interface Props {
  kept: FlowView;
  departments: DepartmentSettings[];
  /** Those that flows may speak. */
  languages: readonly string[];
  removed: () => void;
}

/** Edits a flow as a list of steps, beside its drawing and a trial: as a draft until it is published. */
export function FlowEditor({ kept, departments, languages, removed }: Props) {
  const queries = useQueryClient();
  const saving = useSaving();
  const [part, setPart] = useState<Part>("steps");
  const [beside, setBeside] = useState<"drawing" | "trial">("drawing");
  const [open, setOpen] = useState("");
  const [path, setPath] = useState<readonly string[]>([]);
  const [asking, setAsking] = useState(false);
  const stored = useMemo(() => ({ flow: kept.flow, version: kept.draftVersion }), [kept]);
  const editing = useEditing(`flow.${kept.id}`, stored);
  const { flow } = editing.value;
  const change = (next: Flow) => {
    editing.change({ flow: next });
    saving.clear();
  };
  // What is wrong, and the drawing, follow what is typed; the last ones stay until the new ones are there.
  const looked = useDeferredValue(flow);
  const seen = useQuery({
    queryKey: ["setup", "flow-look", looked],
    queryFn: () => ask(api.POST("/api/setup/flows/look", { body: looked })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 10_000,
  });
  const problems = seen.data?.problems ?? [];
  const blocking = problems.filter((p) => !p.warning);
  const amiss = new Set(blocking.map((p) => p.step));
  const path_ = { params: { path: { id: kept.id } } };
  const reread = () => queries.invalidateQueries({ queryKey: ["setup", "flows"] });
  const body = { flow, draftVersion: editing.value.version };
  const taken = (f: FlowView) => editing.saved({ flow: f.flow, version: f.draftVersion });
  const save = () =>
    void saving.run(
      async () => {
        taken(await ask(api.PUT("/api/setup/flows/{id}", { ...path_, body })));
        await reread();
      },
      t`Draft of ${flow.name} saved. What answers is as it was`,
    );
  const publish = () =>
    void saving.run(
      async () => {
        taken(await ask(api.POST("/api/setup/flows/{id}/publish", { ...path_, body })));
        await reread();
        await queries.invalidateQueries({ queryKey: ["setup", "flow-history", kept.id] });
      },
      t`${flow.name} published. Chats that are under way go on with the version they began with`,
    );
  const remove = () =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/setup/flows/{id}", path_));
        editing.undo();
        removed();
        await reread();
      },
      t`${flow.name} removed`,
    );
  const pick = (id: string) => {
    setPart("steps");
    setOpen(id);
    // After it is drawn open.
    requestAnimationFrame(() => document.getElementById(`step-${id}`)?.scrollIntoView({ block: "nearest" }));
  };
  return (
    <>
      <section className="editor" aria-label={kept.flow.name}>
        <header>
          <h2>{flow.name}</h2>
          <span className={kept.liveVersion > 0 ? "now is-open" : "now"}>
            {kept.liveVersion === 0
              ? t`not published yet`
              : kept.differs
                ? t`version ${kept.liveVersion} is live; this is a draft`
                : t`version ${kept.liveVersion} is live`}
          </span>
          <span className="acts">
            <Button onClick={() => setAsking(true)} disabled={saving.busy}>
              <Trans>Remove</Trans>
            </Button>
          </span>
          <nav className="parts" aria-label={t`Parts of the flow`}>
            {parts.map((p) => (
              <button key={p} aria-current={p === part} onClick={() => setPart(p)}>
                {partName(p)}
              </button>
            ))}
          </nav>
        </header>
        <div className="body">
          {seen.isError ? <LoadTrouble error={seen.error} again={() => void seen.refetch()} /> : null}
          {part === "steps" ? (
            <>
              <div className="fields">
                <TextInput
                  label={t`Name, for the team`}
                  value={flow.name}
                  change={(name) => change({ ...flow, name })}
                  wrong={wordsOf(problems.find((p) => p.step === "" && p.field === "name")?.words)}
                  most={80}
                />
              </div>
              <Checked
                problems={problems}
                flow={flow}
                ready={seen.isSuccess}
                pick={pick}
                toLanguages={() => setPart("languages")}
              />
              <StepList
                flow={flow}
                change={change}
                departments={departments}
                problems={problems}
                open={open}
                setOpen={setOpen}
              />
            </>
          ) : null}
          {part === "languages" ? (
            <FlowLanguages flow={flow} change={change} texts={seen.data?.texts ?? []} languages={languages} />
          ) : null}
          {part === "history" ? <FlowHistory kept={kept} changed={editing.changed} /> : null}
        </div>
        {editing.theirs ? (
          <SaveBar saving={saving} editing={editing} save={publish} />
        ) : (
          <footer>
            <Wrong words={saving.trouble} />
            <Button
              disabled={!editing.changed || saving.busy}
              onClick={() => {
                saving.clear();
                editing.undo();
              }}
            >
              <Trans>Undo changes</Trans>
            </Button>
            <Button variant="outlined" disabled={!editing.changed || saving.busy} onClick={save}>
              <Trans>Save draft</Trans>
            </Button>
            <Button
              variant="contained"
              disabled={(!editing.changed && !kept.differs) || saving.busy || blocking.length > 0}
              onClick={publish}
            >
              <Trans>Publish</Trans>
            </Button>
          </footer>
        )}
      </section>
      <section className="flow-beside" aria-label={t`Seen and tried`}>
        <nav className="parts">
          <button aria-current={beside === "drawing"} onClick={() => setBeside("drawing")}>
            <Trans>Drawing</Trans>
          </button>
          <button aria-current={beside === "trial"} onClick={() => setBeside("trial")}>
            <Trans>Try it</Trans>
          </button>
        </nav>
        {seen.data ? (
          <div className={beside === "drawing" ? "whole" : "above"}>
            <Drawing
              flow={flow}
              drawing={seen.data.drawing}
              open={open}
              path={path}
              amiss={amiss}
              pick={pick}
            />
          </div>
        ) : (
          <div aria-busy="true" />
        )}
        {/* The trial keeps what was said while one looks at the drawing. */}
        <div hidden={beside !== "trial"} className="tried">
          <FlowTrial flow={flow} departments={departments} onPath={setPath} />
        </div>
      </section>
      {asking ? (
        <Confirm
          title={t`Remove ${flow.name}?`}
          yes={t`Remove`}
          no={t`Keep it`}
          grave
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            remove();
          }}
        >
          <Trans>Chats that it is in go on to their end. What it said stays in the transcripts.</Trans>
        </Confirm>
      ) : null}
    </>
  );
}

function wordsOf(text: string | undefined): string | undefined {
  return text === undefined ? undefined : (fieldWords(text) ?? text);
}

interface CheckedProps {
  problems: readonly { step: string; field: string; words: string; warning: boolean }[];
  flow: Flow;
  ready: boolean;
  pick: (id: string) => void;
  toLanguages: () => void;
}

/** What the check found, each with the way to it. */
function Checked({ problems, flow, ready, pick, toLanguages }: CheckedProps) {
  if (!ready) return null;
  const wrong = problems.filter((p) => !p.warning);
  if (problems.length === 0)
    return (
      <p className="checked fine" role="status">
        <Trans>Checked: nothing is wrong.</Trans>
      </p>
    );
  return (
    <div className={wrong.length > 0 ? "checked amiss" : "checked"} role="status">
      <p>
        {wrong.length > 0
          ? plural(wrong.length, {
              one: "One thing must be mended before it can be published:",
              other: "# things must be mended before it can be published:",
            })
          : t`It can be published. Worth a look:`}
      </p>
      <ul>
        {problems.slice(0, 6).map((p, i) => {
          const at = flow.steps.findIndex((s) => s.id === p.step);
          return (
            <li key={i}>
              {at >= 0 ? (
                <button className="link" onClick={() => pick(p.step)}>
                  <Trans>Step {at + 1}</Trans>
                </button>
              ) : p.field.startsWith("texts.") || p.field === "languages" ? (
                <button className="link" onClick={toLanguages}>
                  <Trans>Languages</Trans>
                </button>
              ) : null}{" "}
              {wordsOf(p.words)}
            </li>
          );
        })}
      </ul>
      {problems.length > 6 ? (
        <p>
          <Trans>and {problems.length - 6} more</Trans>
        </p>
      ) : null}
    </div>
  );
}
