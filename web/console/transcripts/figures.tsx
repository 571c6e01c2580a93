import { plural, t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { clock } from "../../shared/format";
import type { ChatMeasures, ChatView } from "../../shared/types";
import { outcomeWords } from "../desk/outcome-words";
import { Counted } from "../reports/counted";
import { missedWords } from "../reports/missed";
import { endingWords, ratingWords } from "../words/codes";

/** What a chat's log says of it, as reports count it; of one that is not over, what is known. */
export function Figures({ chat }: { chat: ChatView }) {
  const measures = useQuery({
    queryKey: ["chat-measures", chat.id, chat.last],
    queryFn: () => ask(api.GET("/api/chats/{id}/measures", { params: { path: { id: chat.id } } })),
    enabled: chat.phase === "ended",
  });
  const figures = [
    ...(measures.data ? timesOf(measures.data) : []),
    { name: t`Department`, value: chat.departmentName || t`none` },
    {
      name: t`Handed on`,
      value: plural(chat.handOns, { 0: "never", one: "once", other: "# times" }),
    },
    {
      name: t`Ended`,
      value: measures.data?.missed
        ? t`missed: ${missedWords(measures.data.missed)}`
        : chat.ending
          ? endingWords(chat.ending)
          : t`not yet`,
    },
    { name: t`Outcome`, value: outcomeWords(chat) || t`none` },
    { name: t`Rating`, value: chat.feedback ? ratingWords(chat.feedback.rating) : t`none` },
    { name: t`Tags`, value: chat.tags.join(", ") || t`none` },
  ];
  return (
    <>
      <dl>
        {figures.map((f) => (
          <div key={f.name} className={"late" in f && f.late ? "late" : ""}>
            <dt>{f.name}</dt>
            <dd dir="auto">{f.value}</dd>
          </div>
        ))}
      </dl>
      {measures.data ? (
        <Counted
          codes={[
            "wait",
            "in-target",
            "first-reply",
            "later-reply",
            "silence",
            "handling",
            "hand-ons",
            "message-reply",
          ]}
        />
      ) : null}
    </>
  );
}

interface Figure {
  name: string;
  value: string;
  late?: boolean;
}

function timesOf(m: ChatMeasures): Figure[] {
  const say = (s: number | undefined) => (s === undefined ? t`never` : clock(s * 1000));
  const who = m.operators.map((o) => (o.beside ? t`${o.name} (beside)` : o.name)).join(", ") || t`nobody`;
  if (m.wait === undefined) {
    return [
      { name: t`Answered after`, value: say(m.openReply) },
      { name: t`Operators`, value: who },
    ];
  }
  return [
    { name: t`Waited`, value: say(m.wait), late: m.inTarget === false },
    { name: t`First reply`, value: say(m.first) },
    ...(m.later === undefined ? [] : [{ name: t`Later replies`, value: say(m.later) }]),
    { name: t`Longest owed`, value: say(m.silence) },
    { name: t`Lasted`, value: say(m.lasted) },
    { name: t`Handling`, value: say(m.handling) },
    { name: t`Operators`, value: who },
  ];
}
