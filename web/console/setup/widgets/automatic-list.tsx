import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { listed } from "../../../shared/format";
import type { Condition, WidgetDesign } from "../../../shared/types";
import { Icons } from "../../icons";
import { Button } from "../../kit/button";
import { NumberField } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { TextField } from "../../kit/text-field";
import { Conditions, conditionWords } from "../conditions";
import type { PartProps } from "./editor";

type Automatic = WidgetDesign["automatic"][number];

const occasions = (): { value: Automatic["on"]; label: string }[] => [
  { value: "start", label: t`A chat begins` },
  { value: "message", label: t`A message is left` },
  { value: "wait", label: t`Nobody has taken the chat` },
  { value: "silence", label: t`The visitor has not answered` },
];

const timed = (a: Automatic) => a.on === "wait" || a.on === "silence";

/** A name that no other message has: it stays the same when they change places. */
function freshID(taken: string[]): string {
  for (let n = 1; ; n++) if (!taken.includes(`message-${n}`)) return `message-${n}`;
}

/** What is said by itself in a chat, on which occasion. */
export function AutomaticList({ design, change, wrongAt, choices }: PartProps) {
  const list = design.automatic;
  const [open, setOpen] = useState(-1);
  const put = (automatic: Automatic[]) => change({ automatic });
  const edit = (at: number, part: Partial<Automatic>) =>
    put(list.map((a, i) => (i === at ? { ...a, ...part } : a)));
  const move = (at: number, by: number) => {
    const moved = [...list];
    const [one] = moved.splice(at, 1);
    if (!one) return;
    moved.splice(at + by, 0, one);
    put(moved);
    setOpen(open === at ? at + by : open);
  };
  const amiss = (a: Automatic, at: number) =>
    ["", ".on", ".seconds", ".text", ".if", ...a.if.map((_, n) => `.if.${n}`)].some(
      (part) => wrongAt(`automatic.${at}${part}`) !== undefined,
    );
  return (
    <>
      <h3>
        <Trans>Said automatically</Trans>
      </h3>
      <p className="about">
        <Trans>
          Visitors see that nobody typed it. Of several that are due the first is said, each once, and never
          two within 20 seconds. Whoever takes a chat adds their own welcome, which they write under their
          name.
        </Trans>
      </p>
      <ol className="form-fields">
        {list.map((a, i) => {
          const when = occasionWords(a);
          return (
            <li key={a.id} className={amiss(a, i) ? "amiss" : ""}>
              <div className="row">
                <button
                  className="field-name"
                  aria-expanded={open === i}
                  onClick={() => setOpen(open === i ? -1 : i)}
                >
                  <b className="cut">{a.text || t`(nothing yet)`}</b>
                  <small>
                    {when}
                    {a.if.length > 0 ? ` · ${onlyIf(a)}` : ""}
                  </small>
                </button>
                <Button
                  aria-label={t`Move message ${i + 1} up`}
                  disabled={i === 0}
                  onClick={() => move(i, -1)}
                >
                  <Icons.Up />
                </Button>
                <Button
                  aria-label={t`Move message ${i + 1} down`}
                  disabled={i === list.length - 1}
                  onClick={() => move(i, 1)}
                >
                  <Icons.Down />
                </Button>
                <Button
                  aria-label={t`Remove message ${i + 1}`}
                  onClick={() => {
                    put(list.filter((_, at) => at !== i));
                    setOpen(-1);
                  }}
                >
                  <Icons.Bin />
                </Button>
              </div>
              <Wrong words={wrongAt(`automatic.${i}`)} />
              {open === i ? (
                <Message
                  a={a}
                  fields={choices.inChat}
                  edit={(part) => edit(i, part)}
                  wrong={(part) => wrongAt(`automatic.${i}${part}`)}
                />
              ) : null}
            </li>
          );
        })}
      </ol>
      <Wrong words={wrongAt("automatic")} />
      <Button
        variant="outlined"
        startIcon={<Icons.Plus />}
        onClick={() => {
          put([
            ...list,
            { id: freshID(list.map((a) => a.id)), on: "wait", seconds: 60, match: "all", if: [], text: "" },
          ]);
          setOpen(list.length);
        }}
      >
        <Trans>Add a message</Trans>
      </Button>
    </>
  );
}

function onlyIf(a: Automatic): string {
  const all = listed(a.if.map(conditionWords), a.match === "any" ? "disjunction" : "conjunction");
  return t`if ${all}`;
}

/** Says when a message is said. */
function occasionWords(a: Automatic): string {
  const { seconds } = a;
  switch (a.on) {
    case "start":
      return t`when a chat begins`;
    case "message":
      return t`when a message is left`;
    case "wait":
      return t`after ${seconds} s of waiting`;
    default:
      return t`after ${seconds} s without an answer of the visitor`;
  }
}

interface MessageProps {
  a: Automatic;
  /** What is known of a chat that has begun. */
  fields: readonly string[];
  edit: (part: Partial<Automatic>) => void;
  wrong: (part: string) => string | undefined;
}

function Message({ a, fields, edit, wrong }: MessageProps) {
  return (
    <div className="field-editor">
      <div className="fields">
        <Select
          label={t`When`}
          value={a.on}
          change={(on) => edit({ on: on as Automatic["on"] })}
          wrong={wrong(".on")}
          options={occasions()}
        />
        {timed(a) ? (
          <NumberField
            label={t`For`}
            unit={t`seconds`}
            value={a.seconds}
            change={(seconds) => edit({ seconds })}
            wrong={wrong(".seconds")}
          />
        ) : null}
      </div>
      <TextField
        label={t`What is said`}
        value={a.text}
        multiline
        minRows={2}
        fullWidth
        error={wrong(".text") !== undefined}
        helperText={wrong(".text") ?? t`Other languages stand under Words`}
        onChange={(e) => edit({ text: e.target.value })}
        slotProps={{ inputLabel: { shrink: true }, htmlInput: { maxLength: 500 } }}
      />
      <p className="about">
        {a.if.length === 0
          ? t`In every chat. Add a condition to say it only in some.`
          : t`Only in chats of which this holds:`}
      </p>
      {a.if.length > 1 ? (
        <Select
          label={t`Which must hold`}
          value={a.match}
          change={(match) => edit({ match: match as Automatic["match"] })}
          options={[
            { value: "all", label: t`all of them` },
            { value: "any", label: t`one of them` },
          ]}
        />
      ) : null}
      <Conditions
        list={a.if as Condition[]}
        change={(list) => edit({ if: list as Automatic["if"] })}
        wrong={(n) => wrong(`.if.${n}`)}
        fields={fields}
      />
      <Wrong words={wrong(".if")} />
    </div>
  );
}
