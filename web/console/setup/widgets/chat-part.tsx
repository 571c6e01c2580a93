import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { Tick } from "../../kit/choice";
import { NumberField, TextInput } from "../../kit/field";
import { AutomaticList } from "./automatic-list";
import type { PartProps } from "./editor";

/** What visitors may do in a chat, and what they are asked after it. */
export function ChatPart(props: PartProps) {
  const { design, change, wrongAt } = props;
  const { survey } = design;
  const ask = (part: Partial<typeof survey>) => change({ survey: { ...survey, ...part } });
  return (
    <>
      <h3>
        <Trans>While a visitor types</Trans>
      </h3>
      <Tick checked={design.draftsSeen} change={(draftsSeen) => change({ draftsSeen })}>
        <Trans>
          Show the team what a visitor types before it is sent. The visitor is told so below the field.
        </Trans>
      </Tick>
      <Tick checked={design.visitorFiles} change={(visitorFiles) => change({ visitorFiles })}>
        <Trans>Visitors can send files</Trans>
      </Tick>
      <div className="fields">
        <NumberField
          label={t`Longest message`}
          unit={t`characters`}
          value={design.messageLimit}
          change={(messageLimit) => change({ messageLimit })}
          wrong={wrongAt("messageLimit")}
        />
      </div>
      <AutomaticList {...props} />
      <h3>
        <Trans>After a chat</Trans>
      </h3>
      <Tick checked={survey.on} change={(on) => ask({ on })}>
        <Trans>Ask visitors how it was. One click is enough, and nobody has to answer.</Trans>
      </Tick>
      {survey.on ? (
        <>
          <div className="fields">
            <TextInput
              label={t`Question`}
              value={survey.question}
              change={(question) => ask({ question })}
              placeholder={t`How was this chat?`}
              hint={t`Left empty, it is asked in the visitor’s language`}
              most={120}
            />
            <TextInput
              label={t`Question for words`}
              value={survey.wordsQuestion}
              change={(wordsQuestion) => ask({ wordsQuestion })}
              placeholder={t`Anything you would like to add?`}
              most={120}
            />
          </div>
          <Tick checked={survey.byMail} change={(byMail) => ask({ byMail })}>
            <Trans>
              Email the question once to visitors who gave an address and have not answered after 15 minutes
            </Trans>
          </Tick>
        </>
      ) : null}
    </>
  );
}
