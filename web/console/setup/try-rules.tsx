import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import { keepJSON, keptJSON } from "../../shared/storage";
import type { Rule, TrialResult } from "../../shared/types";
import { reasonWords, sentence } from "../desk/reasons";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";

const keptAs = "stoop.setup.trial";

/** Shows where a chat would go by the rules on screen, saved or not. */
export function TryRules({ rules, onMatch }: { rules: Rule[]; onMatch: (ruleId: string) => void }) {
  const [trial, setTrial] = useState(() => keptJSON(keptAs, { pageUrl: "", email: "", facts: "" }));
  const [result, setResult] = useState<TrialResult | null>(null);
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const change = (part: Partial<typeof trial>) => {
    const next = { ...trial, ...part };
    setTrial(next);
    keepJSON(keptAs, next);
  };
  const attempt = async () => {
    setBusy(true);
    setTrouble("");
    setResult(null);
    try {
      const body = {
        rules,
        pageUrl: trial.pageUrl.trim(),
        email: trial.email.trim(),
        facts: readFacts(trial.facts),
      };
      const got = await ask(api.POST("/api/setup/rules/try", { body }));
      setResult(got);
      onMatch(got.ruleId ?? "");
    } catch (error) {
      setTrouble(wordsFor(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <section className="try" aria-label={t`Try it`}>
      <h2>
        <Trans>Try it</Trans>
      </h2>
      <p className="hint">
        <Trans>Where would this chat go under the rules as shown here?</Trans>
      </p>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void attempt();
        }}
      >
        <TextInput
          label={t`Page address`}
          value={trial.pageUrl}
          placeholder={t`https://…/freight`}
          change={(pageUrl) => change({ pageUrl })}
        />
        <TextInput
          label={t`Customer email`}
          value={trial.email}
          change={(email) => change({ email })}
          hint={t`Adds what the booking system knows about them`}
        />
        <TextField
          label={t`More facts`}
          size="small"
          multiline
          minRows={3}
          value={trial.facts}
          placeholder={t`language=da
form.topic=Lorries
hour=22`}
          helperText={t`One per line: field=value`}
          onChange={(e) => change({ facts: e.target.value })}
          slotProps={{ inputLabel: { shrink: true } }}
        />
        <Button type="submit" variant="outlined" disabled={busy}>
          <Trans>Try it</Trans>
        </Button>
      </form>
      <Wrong words={trouble} />
      {result ? (
        <div className="result" role="status">
          <p>
            <b>{result.departmentName}</b>
            {result.priority !== 0 ? `, ${t`priority ${result.priority}`}` : ""}
          </p>
          <p>{outcomeWords(result)}</p>
          <p className="why">{sentence(reasonWords(result.reasons))}</p>
        </div>
      ) : null}
    </section>
  );
}

function outcomeWords(r: TrialResult): string {
  switch (r.outcome) {
    case "assign":
      return t`Right now ${r.operatorName ?? ""} would get it.`;
    case "offer":
      return t`Right now it would be offered to ${r.operatorName ?? ""} first.`;
    case "pick":
      return t`Right now it would wait until an operator takes it.`;
    case "closed":
      return t`Right now nobody could take it, so the visitor would leave a message.`;
    default:
      return t`Right now it would wait in the queue.`;
  }
}

/** Reads facts as they are typed: one to a line, a name and a value. */
export function readFacts(typed: string): Record<string, string> {
  const facts: Record<string, string> = {};
  for (const line of typed.split("\n")) {
    const at = line.indexOf("=");
    const name = line.slice(0, at).trim();
    if (at > 0 && name) facts[name] = line.slice(at + 1).trim();
  }
  return facts;
}
