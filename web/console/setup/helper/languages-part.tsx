import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import type { Flow, FlowLook } from "../../../shared/types";
import { Tick } from "../../kit/choice";
import { Select } from "../../kit/select";
import { TextField } from "../../kit/text-field";
import { languageName } from "../widgets/languages";
import { stepTitle } from "./steps";

interface Props {
  flow: Flow;
  change: (flow: Flow) => void;
  /** What is to be translated, in order. */
  texts: FlowLook["texts"];
  languages: readonly string[];
}

/** In which languages a flow speaks, and its texts in each of them beside the first. */
export function FlowLanguages({ flow, change, texts, languages }: Props) {
  const main = flow.languages[0] ?? "en";
  const others = flow.languages.slice(1);
  const [picked, setPicked] = useState(others[0] ?? "");
  const shown = others.includes(picked) ? picked : (others[0] ?? "");
  const lacks = (code: string) => texts.filter((x) => !flow.texts[code]?.[x.key]?.trim()).length;
  const say = (key: string, text: string) =>
    change({ ...flow, texts: { ...flow.texts, [shown]: { ...flow.texts[shown], [key]: text } } });
  return (
    <>
      <p className="about">
        <Trans>
          A visitor is spoken to in the language of the panel, if the flow has it; everybody else in the first
          one. Keywords of every language count.
        </Trans>
      </p>
      <Select
        label={t`First language, of the steps`}
        value={main}
        change={(first) =>
          change({ ...flow, languages: [first, ...flow.languages.filter((l) => l !== first)] })
        }
        options={languages.map((l) => ({ value: l, label: languageName(l) }))}
      />
      <div className="languages">
        {languages
          .filter((code) => code !== main)
          .map((code) => (
            <Tick
              key={code}
              checked={others.includes(code)}
              change={(on) =>
                change({
                  ...flow,
                  languages: on ? [...flow.languages, code] : flow.languages.filter((l) => l !== code),
                })
              }
            >
              {languageName(code)}{" "}
              {others.includes(code) ? (
                <small className={lacks(code) ? "lacks" : "is-open"}>
                  {lacks(code)
                    ? plural(lacks(code), { one: "# text missing", other: "# texts missing" })
                    : t`complete`}
                </small>
              ) : null}
            </Tick>
          ))}
      </div>
      {others.length > 1 ? (
        <Select
          label={t`Translate into`}
          value={shown}
          change={setPicked}
          options={others.map((l) => ({ value: l, label: languageName(l) }))}
        />
      ) : null}
      {shown ? (
        <>
          <h3>
            <Trans>Texts in {languageName(shown)}</Trans>
          </h3>
          <ul className="translations">
            {texts.map((x) => (
              <li key={x.key}>
                <small>{stepTitle(flow, x.step)}</small>
                <p dir="auto">{x.text}</p>
                <TextField
                  value={flow.texts[shown]?.[x.key] ?? ""}
                  multiline
                  fullWidth
                  size="small"
                  onChange={(e) => say(x.key, e.target.value)}
                  slotProps={{
                    htmlInput: {
                      maxLength: 1000,
                      "aria-label": t`${x.text} in ${languageName(shown)}`,
                      lang: shown,
                    },
                  }}
                />
              </li>
            ))}
          </ul>
        </>
      ) : (
        <p className="nothing">
          <Trans>Tick a language to translate the flow into it.</Trans>
        </p>
      )}
    </>
  );
}
