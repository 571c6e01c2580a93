import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import type { DesignPreview } from "../../../shared/types";
import { Button } from "../../kit/button";
import { Tick } from "../../kit/choice";
import { Confirm } from "../../kit/confirm";
import { TextInput } from "../../kit/field";
import { Select } from "../../kit/select";
import { Wrong } from "../../kit/states";
import { TextField } from "../../kit/text-field";
import type { PartProps } from "./editor";
import { languageName } from "./languages";

interface Props extends PartProps {
  preview: DesignPreview | undefined;
  /** Lets the preview speak a language. */
  speak: (language: string) => void;
}

/** What the widget says, in which languages, and what is missing. */
export function WordsPart({ design, change, wrongAt, choices, preview, speak }: Props) {
  const main = design.languages[0] ?? "en";
  const [language, setLanguage] = useState(main);
  const [all, setAll] = useState(false);
  const [search, setSearch] = useState("");
  const [leaving, setLeaving] = useState("");
  const shown = design.languages.includes(language) ? language : main;
  const texts = design.texts[shown] ?? {};
  const say = (key: string, text: string) => {
    const words = Object.fromEntries(Object.entries({ ...texts, [key]: text }).filter(([, v]) => v !== ""));
    change({ texts: { ...design.texts, [shown]: words } });
  };
  const pick = (code: string) => {
    setLanguage(code);
    speak(code);
  };
  const missing = preview?.missing ?? {};
  const translated = (code: string) => Object.keys(design.texts[code] ?? {}).length;
  const offer = (code: string, on: boolean) => {
    if (!on && translated(code) > 0) setLeaving(code);
    else
      change({
        languages: on ? [...design.languages, code] : design.languages.filter((l) => l !== code),
      });
  };
  const usual = choices.texts.filter(
    (u) =>
      (all || texts[u.key] !== undefined) &&
      (!search ||
        `${u.key} ${u.texts[shown] ?? ""} ${texts[u.key] ?? ""}`
          .toLowerCase()
          .includes(search.toLowerCase())),
  );
  return (
    <>
      <h3>
        <Trans>Languages</Trans>
      </h3>
      <p className="about">
        <Trans>
          A visitor is spoken to in the language of the page, then of their browser, if it is ticked here;
          everybody else in the first one.
        </Trans>
      </p>
      <Select
        label={t`First language, of the texts below`}
        value={main}
        change={(first) => change({ languages: [first, ...design.languages.filter((l) => l !== first)] })}
        options={choices.languages.map((l) => ({ value: l, label: languageName(l) }))}
      />
      <div className="languages">
        {choices.languages
          .filter((code) => code !== main)
          .map((code) => {
            const lacks = (missing[code] ?? []).length;
            return (
              <Tick key={code} checked={design.languages.includes(code)} change={(on) => offer(code, on)}>
                {languageName(code)}{" "}
                {design.languages.includes(code) ? (
                  <small className={lacks ? "lacks" : "is-open"}>
                    {lacks ? plural(lacks, { one: "# text missing", other: "# texts missing" }) : t`complete`}
                  </small>
                ) : null}
              </Tick>
            );
          })}
      </div>
      <Wrong words={wrongAt("languages")} />
      <h3>
        <Trans>Own texts in {languageName(main)}</Trans>
      </h3>
      <div className="fields">
        <TextInput
          label={t`Launcher text`}
          value={design.title}
          change={(title) => change({ title })}
          wrong={wrongAt("title")}
          most={60}
        />
        <TextInput
          label={t`Name, for the team`}
          value={design.name}
          change={(name) => change({ name })}
          wrong={wrongAt("name")}
          most={80}
        />
      </div>
      <Long
        label={t`Greeting while the team is open`}
        value={design.greeting}
        change={(greeting) => change({ greeting })}
        wrong={wrongAt("greeting")}
      />
      <Long
        label={t`Greeting while the team is closed`}
        value={design.closedGreeting}
        change={(closedGreeting) => change({ closedGreeting })}
        wrong={wrongAt("closedGreeting")}
        hint={t`Left empty, it says that nobody is here to answer right now`}
      />
      <h3>
        <Trans>Translations and usual texts</Trans>
      </h3>
      <Select
        label={t`Language`}
        value={shown}
        change={pick}
        options={design.languages.map((l) => ({ value: l, label: languageName(l) }))}
      />
      {shown !== main
        ? (preview?.own ?? []).map((own) => (
            <Long
              key={own.key}
              label={own.text}
              value={texts[own.key] ?? ""}
              change={(text) => say(own.key, text)}
              wrong={wrongAt(`texts.${shown}.${own.key}`)}
              hint={
                (missing[shown] ?? []).includes(own.key) && !texts[own.key]
                  ? t`Missing: visitors read it in ${languageName(main)}`
                  : undefined
              }
              lacks={(missing[shown] ?? []).includes(own.key) && !texts[own.key]}
            />
          ))
        : null}
      <Tick checked={all} change={setAll}>
        <Trans>Show all usual texts of the chat, to change them in {languageName(shown)}</Trans>
      </Tick>
      {all ? <TextInput label={t`Search`} value={search} change={setSearch} /> : null}
      {usual.map((u) => (
        <TextInput
          key={u.key}
          label={u.texts[shown] ?? u.key}
          value={texts[u.key] ?? ""}
          change={(text) => say(u.key, text)}
          wrong={wrongAt(`texts.${shown}.${u.key}`)}
          placeholder={u.texts[shown] ?? ""}
          most={500}
        />
      ))}
      {leaving ? (
        <Confirm
          title={t`Stop speaking ${languageName(leaving)}?`}
          yes={t`Stop`}
          no={t`Keep it`}
          onNo={() => setLeaving("")}
          onYes={() => {
            change({ languages: design.languages.filter((l) => l !== leaving) });
            setLeaving("");
          }}
        >
          <Trans>
            Visitors who read it are spoken to in {languageName(main)}. Your translations are kept: tick it
            again and they are back.
          </Trans>
        </Confirm>
      ) : null}
      {search && usual.length === 0 ? (
        <p className="nothing">
          <Trans>No text has these words.</Trans>{" "}
          <Button onClick={() => setSearch("")}>
            <Trans>Show all</Trans>
          </Button>
        </p>
      ) : null}
    </>
  );
}

interface LongProps {
  label: string;
  value: string;
  change: (value: string) => void;
  wrong: string | undefined;
  hint?: string | undefined;
  lacks?: boolean;
}

/** A text of some lines. */
function Long({ label, value, change, wrong, hint, lacks = false }: LongProps) {
  return (
    <TextField
      className={lacks ? "long lacking" : "long"}
      label={label}
      size="small"
      value={value}
      multiline
      fullWidth
      error={wrong !== undefined}
      helperText={wrong ?? hint}
      onChange={(e) => change(e.target.value)}
      slotProps={{ htmlInput: { maxLength: 500 }, inputLabel: { shrink: true } }}
    />
  );
}
