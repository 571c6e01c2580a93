import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";

import { api, ask } from "../../../shared/api";
import { wordsFor } from "../../../shared/problem";
import type { DepartmentSettings, Flow, FlowTurn } from "../../../shared/types";
import { Words } from "../../../shared/words";
import { Button } from "../../kit/button";
import { Tick } from "../../kit/choice";
import { TextInput } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { fieldWords } from "../../words/fields";
import { readFacts } from "../try-rules";
import { languageName } from "../widgets/languages";

interface Line {
  by: "visitor" | "helper" | "event";
  text: string;
  choices: readonly string[];
  about: string;
}

interface Props {
  flow: Flow;
  departments: DepartmentSettings[];
  /** Shows on the drawing which steps were passed. */
  onPath: (path: readonly string[]) => void;
}

const start: FlowTurn["memory"] = { step: "", tries: 0, question: "", answered: false };

/** A simulated visitor who talks with the flow as it stands on screen, saved or not. */
export function FlowTrial({ flow, departments, onPath }: Props) {
  const [lines, setLines] = useState<Line[]>([]);
  const [memory, setMemory] = useState(start);
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [over, setOver] = useState(false);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState("");
  const [words, setWords] = useState("");
  const [about, setAbout] = useState({ pageUrl: "", language: "", facts: "", open: true });
  const end = useRef<HTMLDivElement>(null);
  // An answer that comes after the trial was begun anew belongs to no trial.
  const round = useRef(0);
  useEffect(() => {
    // What it returns is no effect's end: newer browsers return a promise.
    void end.current?.scrollIntoView({ block: "nearest" });
  }, [lines]);

  const anew = () => {
    round.current++;
    setLines([]);
    setMemory(start);
    setAnswers({});
    setOver(false);
    setBusy(false);
    setTrouble("");
    onPath([]);
  };
  const say = async (said: string) => {
    if (!said.trim() || busy || over) return;
    const mine = round.current;
    setBusy(true);
    setTrouble("");
    try {
      const turn = await ask(
        api.POST("/api/setup/flows/try", {
          body: {
            flow,
            memory,
            words: said,
            answers,
            language: about.language || (flow.languages[0] ?? "en"),
            pageUrl: about.pageUrl.trim(),
            facts: readFacts(about.facts),
            open: about.open,
            hour: new Date().getHours(),
          },
        }),
      );
      if (mine !== round.current) return;
      setLines((before) => [...before, line("visitor", said), ...linesOf(turn, departments)]);
      setMemory(turn.memory);
      setAnswers(turn.answers);
      setOver(turn.then !== "");
      onPath(turn.path);
      setWords((now) => (now === said ? "" : now));
    } catch (error) {
      if (mine === round.current) setTrouble(wordsFor(error));
    } finally {
      if (mine === round.current) setBusy(false);
    }
  };
  const last = lines.at(-1);
  return (
    <div className="flow-trial">
      <div className="said-lines" role="log" aria-label={t`Trial`} tabIndex={0}>
        {lines.length === 0 ? (
          <p className="nothing">
            <Trans>Write what a visitor would. Nothing here reaches a real chat.</Trans>
          </p>
        ) : null}
        {lines.map((l, i) => (
          <div key={i} className={`said-line ${l.by}`}>
            <p dir="auto">
              <Words text={l.text} />
            </p>
            {l.about ? <small>{l.about}</small> : null}
          </div>
        ))}
        {last && last.choices.length > 0 && !over ? (
          <div className="picks">
            {last.choices.map((c) => (
              <Button key={c} variant="outlined" disabled={busy} onClick={() => void say(c)}>
                {c}
              </Button>
            ))}
          </div>
        ) : null}
        <div ref={end} />
      </div>
      <Wrong words={trouble} />
      <form
        className="row"
        onSubmit={(e) => {
          e.preventDefault();
          void say(words);
        }}
      >
        <TextInput label={t`The visitor says`} value={words} change={setWords} most={2000} />
        <Button type="submit" variant="outlined" disabled={busy || over || !words.trim()}>
          <Trans>Say</Trans>
        </Button>
        <Button onClick={anew} disabled={lines.length === 0 && !busy}>
          <Trans>Begin anew</Trans>
        </Button>
      </form>
      <details>
        <summary>
          <Trans>About this visitor</Trans>
        </summary>
        <div className="fields">
          <TextInput
            label={t`Page address`}
            value={about.pageUrl}
            change={(pageUrl) => setAbout({ ...about, pageUrl })}
            placeholder="https://…/freight"
          />
          <Select
            label={t`Language`}
            value={about.language}
            change={(language) => setAbout({ ...about, language })}
            options={[
              { value: "", label: languageName(flow.languages[0] ?? "en") },
              ...flow.languages.slice(1).map((l) => ({ value: l, label: languageName(l) })),
            ]}
          />
          <TextInput
            label={t`Customer data`}
            value={about.facts}
            change={(facts) => setAbout({ ...about, facts })}
            placeholder="outside.tier=Gold"
          />
        </div>
        <Tick checked={about.open} change={(open) => setAbout({ ...about, open })}>
          <Trans>Somebody of the team is in</Trans>
        </Tick>
      </details>
    </div>
  );
}

function line(by: Line["by"], text: string, choices: readonly string[] = [], about = ""): Line {
  return { by, text, choices, about };
}

/** What a turn of a flow shows: its words, what it noted, and how it came to its end. */
export function linesOf(turn: FlowTurn, departments: readonly { id?: string; name: string }[]): Line[] {
  const lines = turn.lines.map((l) => {
    const sure = Math.round((l.confidence ?? 0) * 100);
    return line("helper", l.text, l.choices, l.article ? t`From “${l.article}”, ${sure} % sure` : "");
  });
  if (turn.tags.length > 0) lines.push(line("event", t`Tagged ${turn.tags.join(", ")}`));
  if (turn.failed) lines.push(line("event", fieldWords(turn.failed) ?? turn.failed));
  const department = departments.find((d) => d.id === turn.department)?.name;
  if (turn.then === "leaves")
    lines.push(line("event", department ? t`Handed over to ${department}` : t`Handed over to your team`));
  if (turn.then === "keeps") lines.push(line("event", t`Kept as a message`));
  if (turn.then === "ends") lines.push(line("event", t`The chat ends`));
  return lines;
}
