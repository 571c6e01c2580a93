import { t } from "@lingui/core/macro";
import { Link } from "react-router";

import type { Report } from "../../shared/types";
import { chatsBehind } from "../filters/asked";
import { LaterIcons } from "../icons-later";
import {
  count,
  countChange,
  enough,
  one,
  ratingChange,
  seconds,
  shareChange,
  shareWords,
  surely,
  timeChange,
  type Change,
} from "./figures";
import { useBehind } from "./use-report";

/** The figures that tell most, with how they moved. */
export function Cards({ report }: { report: Report }) {
  const { total, earlier } = report;
  const behind = useBehind();
  return (
    <div className="cards">
      <Card
        name={t`Chats`}
        value={count(total.chats)}
        to={chatsBehind(behind, {})}
        change={countChange(total.chats, earlier?.chats)}
        note={
          total.helped > 0
            ? t`${count(total.answered)} answered, ${count(total.missed)} missed, ${count(total.messages)} messages, ${count(total.helped)} by the helper alone`
            : t`${count(total.answered)} answered, ${count(total.missed)} missed, ${count(total.messages)} messages`
        }
      />
      <Card
        name={t`Taken within target`}
        value={shareWords(total.inTarget)}
        to={chatsBehind(behind, { inTarget: "no" })}
        linkName={t`Chats that were not taken within the target`}
        change={shareChange(total.inTarget, earlier?.inTarget)}
        note={surely(total.inTarget)}
      />
      <Card
        name={t`Wait, median`}
        value={total.wait.n > 0 ? seconds(total.wait.median) : "–"}
        change={timeChange(total.wait, earlier?.wait)}
        note={total.wait.n > 0 ? t`nine of ten within ${seconds(total.wait.p90)}` : t`nobody waited`}
      />
      <Card
        name={t`First reply, median`}
        value={total.first.n > 0 ? seconds(total.first.median) : "–"}
        change={timeChange(total.first, earlier?.first)}
        note={total.first.n > 0 ? t`nine of ten within ${seconds(total.first.p90)}` : t`none yet`}
      />
      <Card
        name={t`Rating`}
        value={total.rating === undefined ? "–" : t`${one(total.rating)} of 5`}
        to={chatsBehind(behind, { rated: "yes" })}
        linkName={t`Chats that were rated`}
        change={ratingChange(total, earlier)}
        note={
          total.good.of === 0
            ? t`nobody has rated`
            : total.good.of < enough
              ? t`only ${total.good.of} ratings`
              : t`${count(total.good.of)} ratings, ${surely(total.good)} good`
        }
      />
      {total.withHelper > 0 ? (
        <Card
          name={t`Helped without a person`}
          value={t`${count(total.helped)} of ${count(total.withHelper)}`}
          to={chatsBehind(behind, { ending: "helped" })}
          linkName={t`Chats that the helper alone answered`}
          note={t`chats with the helper; ${count(total.helperMissed)} left it unanswered`}
        />
      ) : null}
    </div>
  );
}

interface Props {
  name: string;
  value: string;
  note: string;
  change?: Change | undefined;
  to?: string;
  linkName?: string;
}

/** One figure with what it is, how it moved and how sure it is. */
export function Card({ name, value, note, change, to, linkName }: Props) {
  return (
    <div className="card">
      <h3>{name}</h3>
      <p className="value">
        {to ? (
          <Link to={to} aria-label={`${linkName ?? name}: ${value}`}>
            {value}
          </Link>
        ) : (
          value
        )}
        {change ? <Moved change={change} /> : null}
      </p>
      <p className="note">{note}</p>
    </div>
  );
}

function Moved({ change }: { change: Change }) {
  const Icon = { up: LaterIcons.Rise, down: LaterIcons.Fall, even: LaterIcons.Even }[change.way];
  const tone = change.good === undefined ? "" : change.good ? "good" : "bad";
  return (
    <span className={`moved ${tone}`}>
      <Icon /> {change.words}
    </span>
  );
}
