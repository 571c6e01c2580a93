import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, type ReactNode } from "react";

import { firstName, timeOfDay } from "../../shared/format";
import type { EventView, TranslationView } from "../../shared/types";
import { Words } from "../../shared/words";
import { Icons } from "../icons";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { CardShown } from "./card-shown";
import { FileShown } from "./file-shown";
import { kindOf, wordsOf } from "./happened";

const Translated = later(() => import("./translated"));

/** What became of a message later. */
export interface Changed {
  text?: string;
  at: string;
  how: "corrected" | "withdrawn" | "refused";
}

/** Finds what was corrected, withdrawn or refused, by number; the latest counts. */
export function changesOf(events: readonly EventView[]): Map<number, Changed> {
  const changes = new Map<number, Changed>();
  for (const e of events) {
    if ((e.kind === "corrected" || e.kind === "withdrawn" || e.kind === "refused") && e.upTo) {
      changes.set(e.upTo, { at: e.at, how: e.kind, ...(e.text ? { text: e.text } : {}) });
    }
  }
  return changes;
}

interface LineProps {
  event: EventView;
  chatName: string;
  startedAt: string;
  meId: string;
  receipt: string;
  changed: Changed | undefined;
  /** How the other side reads these words, if they were translated. */
  translation?: TranslationView | undefined;
  /** They wait for their translation. */
  owed?: boolean;
  /** The visitor's language in this chat. */
  theirs?: string;
  marked: boolean;
  mark: ((text: string) => ReactNode) | undefined;
  onMore: ((event: EventView, at: HTMLElement) => void) | undefined;
}

/** One event of a conversation, as its kind looks. */
export const ScriptLine = memo(
  function Line(props: LineProps) {
    const { event, chatName, startedAt, meId, receipt, changed, mark } = props;
    const mine = event.side === "team" && event.by === meId;
    const { look, icon, words, note } = kindOf(event);
    if (look === "words")
      return (
        <div className={`say ${event.side} ${props.marked ? "marked" : ""}`} data-number={event.number}>
          <Who event={event} mine={mine} />
          <div className="words">
            <Spoken {...props} />
            {event.side === "house" ? <Automatic event={event} /> : null}
            {changed ? <span className="mark">{changedWords(changed, mine)}</span> : null}
            {receipt && changed?.how !== "withdrawn" ? <span className="mark">{receipt}</span> : null}
          </div>
          <More {...props} />
        </div>
      );
    const told = words ? wordsOf(event, { startedAt, meId, visitor: chatName }) : "";
    const Icon = icon ? Icons[icon] : Icons.Note;
    if (look === "aside")
      return (
        <div className={`say note ${props.marked ? "marked" : ""}`} data-number={event.number}>
          <Who event={event} mine={mine} />
          <div className="words">
            <span className="to-team">
              <Icon />
              {told}
            </span>
            <p dir="auto">
              <Words text={event.text ?? ""} mark={mark} />
            </p>
          </div>
          <More {...props} />
        </div>
      );
    const line = (
      <p className="event">
        <Icon />
        <span>
          {told}, {timeOfDay(event.at)}
        </span>
      </p>
    );
    if (!note || !event.text) return line;
    return (
      <div className="team-note">
        {line}
        <p className="note-words" dir="auto">
          <b>
            <Trans>Note to team</Trans>
          </b>{" "}
          {event.text}
        </p>
      </div>
    );
  },
  (a, b) =>
    a.event === b.event &&
    a.receipt === b.receipt &&
    a.chatName === b.chatName &&
    a.marked === b.marked &&
    a.mark === b.mark &&
    a.onMore === b.onMore &&
    a.translation === b.translation &&
    a.owed === b.owed &&
    a.theirs === b.theirs &&
    a.changed?.at === b.changed?.at &&
    a.changed?.text === b.changed?.text,
);

// As many letters as the column beside the words holds.
const nameLength = 9;

// A long name is cut here rather than by style: hundreds of clips slow each frame.
function shortened(name: string): string {
  const letters = [...name];
  return letters.length > nameLength ? `${letters.slice(0, nameLength - 2).join("")}…` : name;
}

function Who({ event, mine }: { event: EventView; mine: boolean }) {
  return (
    <div className="who">
      <b>
        <bdi title={event.name}>
          {event.side === "house" ? t`Helper` : mine ? t`You` : shortened(firstName(event.name))}
        </bdi>
      </b>
      <time dateTime={event.at}>{timeOfDay(event.at)}</time>
    </div>
  );
}

/** What stands below words of the helper: from which article they are, and what the visitor may press. */
function Automatic({ event }: { event: EventView }) {
  const { article, confidence = 0, choices = [] } = event.helper ?? {};
  const sure = Math.round(confidence * 100);
  return (
    <span className="mark">
      {[
        t`automatic`,
        article ? (sure > 0 ? t`from “${article}”, ${sure} % sure` : t`from “${article}”`) : "",
        choices.length > 0 ? t`to choose: ${choices.join(" / ")}` : "",
      ]
        .filter(Boolean)
        .join(" · ")}
    </span>
  );
}

function Spoken({ event, changed, mark, translation, owed, theirs = "" }: LineProps) {
  if (changed?.how === "withdrawn") {
    // What a visitor withdrew is nobody's any more; colleagues see what the team took back.
    const was = event.side === "team" ? event.text || event.file?.name : "";
    return (
      <p dir="auto">
        {was ? (
          <s>{was}</s>
        ) : (
          <i>
            <Trans>Message withdrawn</Trans>
          </i>
        )}
      </p>
    );
  }
  if (event.kind === "shared")
    return event.file ? (
      <FileShown file={event.file} />
    ) : (
      <i>
        <Trans>This file is no longer available</Trans>
      </i>
    );
  if (event.card && !mark) return <CardShown card={event.card} />;
  const said = changed?.text ?? event.text ?? "";
  const ofVisitor = event.side === "visitor";
  return (
    <>
      {changed?.text && event.text !== changed.text ? (
        <p dir="auto" className="was">
          <s>{event.text}</s>
        </p>
      ) : null}
      <p dir="auto">
        <Words text={translation && ofVisitor ? translation.text : said} mark={mark} />
      </p>
      {owed ? <span className="mark">{t`not translated yet`}</span> : null}
      {translation ? (
        <Lazily>
          <Translated
            translation={translation}
            said={ofVisitor ? theirs : ""}
            other={ofVisitor ? said : translation.text}
            theirs={ofVisitor}
            mark={mark}
          />
        </Lazily>
      ) : null}
    </>
  );
}

function changedWords(changed: Changed, mine: boolean): string {
  switch (changed.how) {
    case "corrected":
      return t`Corrected ${timeOfDay(changed.at)}`;
    case "withdrawn":
      return `${mine ? t`You withdrew this` : t`Withdrawn`} ${timeOfDay(changed.at)}`;
    default:
      return t`The visitor declined this file, ${timeOfDay(changed.at)}`;
  }
}

/** Opens what can be done with a message; it keeps its room, so that nothing moves when it shows. */
function More({ event, onMore, changed }: LineProps) {
  if (!onMore || event.side === "house" || changed?.how === "withdrawn") return null;
  return (
    <button
      type="button"
      className="more"
      aria-label={t`More for the message of ${timeOfDay(event.at)}`}
      onClick={(e) => onMore(event, e.currentTarget)}
    >
      <Icons.More />
    </button>
  );
}
