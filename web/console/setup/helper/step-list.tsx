import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import type { DepartmentSettings, Flow, FlowProblem, FlowStep } from "../../../shared/types";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { fieldWords } from "../../words/fields";
import { StepEditor } from "./step-editor";
import { kinds, kindWords, newStep, stepGist, stepTitle, withoutStep } from "./steps";

interface Props {
  flow: Flow;
  change: (flow: Flow) => void;
  departments: DepartmentSettings[];
  problems: readonly FlowProblem[];
  open: string;
  setOpen: (id: string) => void;
}

/** The steps of a flow in their order: the first begins; where each goes on stands in it. */
export function StepList({ flow, change, departments, problems, open, setOpen }: Props) {
  const wrongAt = (step: string, field: string) => {
    const found = problems.find((p) => p.step === step && p.field === field && !p.warning);
    return found && (fieldWords(found.words) ?? found.words);
  };
  const move = (at: number, by: number) => {
    const steps = [...flow.steps];
    const [one] = steps.splice(at, 1);
    if (!one) return;
    steps.splice(at + by, 0, one);
    change({ ...flow, steps });
  };
  const add = (kind: FlowStep["kind"]) => {
    const step = newStep(flow, kind);
    change({ ...flow, steps: [...flow.steps, step] });
    setOpen(step.id);
  };
  return (
    <>
      <ol className="steps">
        {flow.steps.map((step, i) => {
          const amiss = problems.some((p) => p.step === step.id && !p.warning);
          const title = stepTitle(flow, step.id);
          return (
            <li
              key={step.id}
              id={`step-${step.id}`}
              className={`${amiss ? "amiss" : ""} ${open === step.id ? "open" : ""}`}
            >
              <div className="row">
                <span className="place">{i + 1}</span>
                <button
                  className="summary"
                  aria-expanded={open === step.id}
                  onClick={() => setOpen(open === step.id ? "" : step.id)}
                >
                  <b>
                    {kindWords(step.kind)}
                    {i === 0 ? " " : null}
                    {i === 0 ? <small>{t`begins`}</small> : null}
                  </b>
                  <span className="cut" dir="auto">
                    {stepGist(step) || waysWords(flow, step)}
                  </span>
                </button>
                <Button aria-label={t`Move ${title} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                  <Icons.Up />
                </Button>
                <Button
                  aria-label={t`Move ${title} down`}
                  disabled={i === flow.steps.length - 1}
                  onClick={() => move(i, 1)}
                >
                  <Icons.Down />
                </Button>
                <Button
                  aria-label={t`Remove ${title}`}
                  onClick={() => {
                    change(withoutStep(flow, step.id));
                    if (open === step.id) setOpen("");
                  }}
                >
                  <Icons.Bin />
                </Button>
              </div>
              <Wrong words={wrongAt(step.id, "id")} />
              {open === step.id ? (
                <StepEditor
                  flow={flow}
                  step={step}
                  change={change}
                  departments={departments}
                  wrong={(field) => wrongAt(step.id, field)}
                  open={setOpen}
                />
              ) : null}
            </li>
          );
        })}
      </ol>
      {flow.steps.length === 0 ? (
        <p className="nothing">
          <Trans>No steps yet. The first one begins.</Trans>
        </p>
      ) : null}
      <Select
        label={t`Add a step`}
        value=""
        change={(kind) => kind && add(kind as FlowStep["kind"])}
        options={[
          { value: "", label: t`choose what it does` },
          ...kinds.map((k) => ({ value: k, label: kindWords(k) })),
        ]}
      />
    </>
  );
}

/** Where a step goes on that says nothing by itself. */
function waysWords(flow: Flow, step: FlowStep): string {
  return step.next ? t`then ${stepTitle(flow, step.next)}` : t`(nothing yet)`;
}
