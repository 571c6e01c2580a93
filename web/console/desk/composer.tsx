import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useEffect, useRef, useState, type KeyboardEvent } from "react";

import { characters } from "../../shared/format";
import { keepInFront } from "../../shared/storage";
import { filesOf } from "../../shared/upload";
import { uuid } from "../../shared/uuid";
import { pieces } from "../../shared/words";
import type { EventView, Suggestion, TranslatingView, TranslationView, WayView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { useAct } from "../keyboard/keyboard";
import { Button } from "../kit/button";
import { InputBase } from "../kit/input";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { say, sayTrouble } from "../kit/say";
import { addMadeOf, draftKey, forgetMadeOf, madeOf, modeKey, noteKey } from "./drafts";
import { canRecord } from "./can-record";
import { ModeLine, Unsaved } from "./composer-mode";
import { Tools } from "./composer-tools";
import { Elsewhere } from "./elsewhere";
import { useDeskStore } from "./provider";
import { SuggestionList } from "./suggestion-list";
import { inserted, stillMissing, useSuggestions } from "./suggestions";

const ArticleSearch = later(() => import("./article-search"));
const Recording = later(() => import("./voice"));
const Attachments = later(() => import("./attachments").then((m) => ({ default: m.Attachments })));
const Emoji = later(() => import("./emoji"));
const OfferAddress = later(() => import("./offer-address"));
const TextLength = later(() => import("./way").then((m) => ({ default: m.TextLength })));
const Outgoing = later(() => import("./outgoing"));

/** Words that are shown in the visitor's language before they go. */
interface Shown {
  text: string;
  into: string;
  got?: TranslationView;
  /** Why they could not be translated. */
  trouble?: string;
}

interface Props {
  chatId: string;
  /** Longest message, in characters. */
  limit: number;
  /** Whom it speaks to. */
  name: string;
  /** Of the lane: two visitors may have one name. */
  number: number;
  /** The lane in use: its keys work, and its button is the one that is filled. */
  primary: boolean;
  /** Between which languages the chat is translated, if it is. */
  translating?: TranslatingView | undefined;
  /** By which way the words go, if not on the site. */
  way?: WayView | undefined;
  /** The last of my own words, while they can be corrected. */
  correctable: EventView | undefined;
  correcting: EventView | undefined;
  onCorrect: (event: EventView | undefined) => void;
}

/** Where an operator writes. It names whom it speaks to; Enter sends, Shift+Enter makes a line. */
export const Composer = memo(function Composer({
  chatId,
  limit,
  name,
  number,
  primary,
  translating,
  way,
  correctable,
  correcting,
  onCorrect,
}: Props) {
  const store = useDeskStore();
  // What is typed lives under the key of its kind alone: an answer that failed
  // comes back among answers, a note among notes, whatever is written meanwhile.
  const [mode, setMode] = useKept(modeKey(chatId));
  const noting = mode === "note" || mode === "pinned";
  const noFiles = noting || (way ? !way.files : false);
  const [answer, setAnswer] = useKept(draftKey(chatId));
  const [note, setNote] = useKept(noteKey(chatId));
  const words = (noting ? note : answer) ?? "";
  const setWords = (value: string) => (noting ? setNote : setAnswer)(value || null);
  const [unsaved, setUnsaved] = useState<string | undefined>();
  const [correction, setCorrection] = useState<{ number: number; text: string } | undefined>();
  const [attached, setAttached] = useState(() => store.words.attachedTo(chatId));
  const [recording, setRecording] = useState(false);
  const [emojiAt, setEmojiAt] = useState<HTMLElement | null>(null);
  const [articlesAt, setArticlesAt] = useState<HTMLElement | null>(null);
  const [stopped, setStopped] = useState("");
  const [shown, setShown] = useState<Shown | undefined>();
  const field = useRef<HTMLTextAreaElement>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const emojiButton = useRef<HTMLButtonElement>(null);

  // Correcting has a text of its own, so that a half-written answer is not lost.
  if (correcting && correction?.number !== correcting.number) {
    setCorrection({ number: correcting.number, text: correcting.text ?? "" });
  }
  if (!correcting && correction) setCorrection(undefined);
  const text = correction ? correction.text : words;
  const trimmed = text.trim();
  const left = (noting ? 1000 : limit) - characters(trimmed);
  const nearEnd = left <= Math.max(20, limit / 10);
  // What goes out in another language is shown first: these very words, into this very language.
  const into = noting ? undefined : translating?.theirs;
  const outgoing = shown && shown.text === trimmed && shown.into === into ? shown : undefined;
  // An address may be a page to show.
  const link = noting || correcting ? undefined : pieces(trimmed).find((p) => p.href);
  const suggestions = useSuggestions(text, !noting && !correcting, (typed, all) =>
    store.words.suggest(chatId, typed, all),
  );

  const focus = () => requestAnimationFrame(() => field.current?.focus());
  const change = (value: string) => {
    setStopped("");
    if (correction) {
      setCorrection({ ...correction, text: value });
      return;
    }
    setWords(value);
    if (value === "" && !noting) forgetMadeOf(chatId);
    if (!noting) store.words.types(chatId, value.trim() !== "");
  };
  const attach = (files: File[], voice = false) => {
    if (noFiles && !noting) {
      import("./way").then((m) => m.sayNoFiles(), sayTrouble);
      return;
    }
    for (const file of files) {
      const why = store.uploads.refusalOf(file);
      if (why) say(why, "error");
    }
    const fine = files.filter((f) => !store.uploads.refusalOf(f));
    setAttached((list) => [
      ...list,
      ...fine.map((file) => ({ key: uuid(), file, ...(voice ? { voice } : {}) })),
    ]);
    focus();
  };
  const insert = (suggestion: Suggestion) => {
    const whole = inserted(text, suggestion, suggestions.listFrom);
    change(whole);
    suggestions.dismiss(whole); // it is in: nothing covers it
    addMadeOf(chatId, suggestion);
    const files = suggestion.files ?? [];
    if (files.length > 0)
      setAttached((list) => [...list, ...files.map((stored) => ({ key: uuid(), stored }))]);
    focus();
  };
  const switchNoting = () => {
    setMode(noting ? null : "note");
    onCorrect(undefined);
    store.words.types(chatId, false);
    focus();
  };
  const empty = () => {
    setWords("");
    if (!noting) forgetMadeOf(chatId);
  };
  /** Shows words in the visitor's language before they go; reports whether they may go now. */
  const shownFirst = (): boolean => {
    if (!into || !trimmed || outgoing?.got) return true;
    if (!outgoing || outgoing.trouble) setShown({ text: trimmed, into });
    return false;
  };
  const send = (ready?: { translation: TranslationView | undefined }) => {
    if (left < 0 || (!trimmed && attached.length === 0)) return;
    const translation = ready ? ready.translation : outgoing?.got;
    const words = translation ? { translation } : {};
    if (correcting) {
      if (trimmed && trimmed !== correcting.text) {
        if (!ready && !shownFirst()) return;
        store.acts.correct(chatId, correcting.number, trimmed, translation).catch((error: unknown) => {
          setUnsaved(trimmed);
          sayTrouble(error);
        });
      }
      setShown(undefined);
      onCorrect(undefined);
      return;
    }
    if (noting) {
      empty();
      // The next words are for the visitor again, unless notes are wanted on purpose.
      if (mode !== "pinned") setMode(null);
      store.acts.note(chatId, trimmed).catch((error: unknown) => {
        keepInFront(noteKey(chatId), trimmed);
        sayTrouble(error);
      });
      return;
    }
    const made = madeOf(chatId);
    const unfilled = stillMissing(trimmed, made.missing);
    if (unfilled.length > 0) {
      setStopped(t`Not sent: fill in ${unfilled.map((u) => `{${u}}`).join(", ")} or remove it.`);
      return;
    }
    if (!ready && !shownFirst()) return;
    setShown(undefined);
    if (trimmed) {
      store.words.write(chatId, trimmed, { ...(made.canned ? { canned: made.canned } : {}), ...words });
    }
    if (attached.length > 0) store.uploads.share(chatId, attached);
    setAttached([]);
    empty();
  };
  const put = (emoji: string) => {
    const area = field.current;
    const at = area?.selectionStart ?? text.length;
    change(text.slice(0, at) + emoji + text.slice(area?.selectionEnd ?? at));
    setEmojiAt(null);
    requestAnimationFrame(() => {
      area?.focus();
      area?.setSelectionRange(at + emoji.length, at + emoji.length);
    });
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.nativeEvent.isComposing || event.altKey) return;
    const marked = suggestions.list[suggestions.marked];
    if (marked) {
      if (event.key === "ArrowDown" || event.key === "ArrowUp") {
        event.preventDefault();
        suggestions.mark(event.key === "ArrowDown" ? 1 : -1);
        return;
      }
      if (
        (event.key === "Tab" && !event.shiftKey) ||
        (event.key === "Enter" && suggestions.listFrom !== undefined)
      ) {
        event.preventDefault();
        insert(marked);
        return;
      }
      if (event.key === "Escape") {
        event.preventDefault();
        suggestions.dismiss(text);
        return;
      }
    }
    if (event.key === "Escape" && correcting) {
      event.preventDefault();
      onCorrect(undefined);
      return;
    }
    if (event.key === "ArrowUp" && text === "" && correctable && !noting) {
      event.preventDefault();
      onCorrect(correctable);
      return;
    }
    if (event.key === "Enter" && !event.shiftKey) {
      event.preventDefault();
      send();
    }
  };

  useEffect(() => store.words.onDrop(chatId, attach));
  useEffect(() => store.words.keepAttached(chatId, attached), [store, chatId, attached]);

  const live = primary && !correcting;
  useAct("note", switchNoting, live);
  useAct("attach", () => chooser.current?.click(), live && !noFiles);
  useAct("emoji", () => setEmojiAt(emojiButton.current), primary);
  useAct("voice", () => setRecording(true), live && !noFiles && canRecord());

  const label = correcting
    ? t`Correct your words to ${name}`
    : noting
      ? t`Note to team about ${name}; the visitor never sees it`
      : t`Reply to ${number} ${name}`;
  return (
    <form
      className={`composer ${noting ? "noting" : ""} ${correcting ? "correcting" : ""}`}
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
      onDrop={(event) => {
        event.preventDefault();
        attach(filesOf(event.dataTransfer));
      }}
      onPaste={(event) => {
        const files = filesOf(event.clipboardData);
        if (files.length === 0) return;
        event.preventDefault();
        attach(files);
      }}
    >
      <SuggestionList
        id={`suggest-${chatId}`}
        list={suggestions.list}
        marked={suggestions.marked}
        full={suggestions.listFrom !== undefined}
        onPick={insert}
      />
      <ModeLine
        correcting={correcting !== undefined}
        noting={noting}
        pinned={mode === "pinned"}
        noteLeft={Boolean(note)}
        onPin={(pinned) => {
          setMode(pinned ? "pinned" : "note");
          focus();
        }}
        onNote={switchNoting}
      />
      {unsaved !== undefined ? <Unsaved words={unsaved} onDiscard={() => setUnsaved(undefined)} /> : null}
      <Lazily>
        {attached.length > 0 ? (
          <Attachments
            list={attached}
            onRemove={(key) => setAttached((l) => l.filter((a) => a.key !== key))}
          />
        ) : null}
        {recording ? (
          <Recording
            onDone={(file) => {
              setRecording(false);
              attach([file], true);
            }}
            onCancel={() => setRecording(false)}
            onTrouble={(trouble) => {
              setRecording(false);
              say(trouble, "error");
            }}
          />
        ) : null}
      </Lazily>
      <Lazily>
        {link?.href ? (
          <OfferAddress
            chatId={chatId}
            address={link.href}
            onOffered={() => {
              if (trimmed === link.text) empty();
              focus();
            }}
          />
        ) : null}
        {outgoing ? (
          <Outgoing
            key={outgoing.text}
            chatId={chatId}
            text={outgoing.text}
            into={outgoing.into}
            got={outgoing.got}
            trouble={outgoing.trouble}
            onDone={(done) => setShown({ text: outgoing.text, into: outgoing.into, ...done })}
            onSend={(translation) => {
              send({ translation });
              focus();
            }}
          />
        ) : null}
      </Lazily>
      <InputBase
        id={`write-${chatId}`}
        className="write"
        multiline
        minRows={1}
        maxRows={7}
        fullWidth
        value={text}
        inputRef={field}
        placeholder={noting ? t`Note to team` : t`Reply to ${number} ${name}, or ; for a canned response`}
        inputProps={{
          "aria-label": label,
          dir: "auto",
          // A text area stays a text area: it has no role of a combobox. What fits
          // is pointed at from it, and its number is read out below.
          "aria-autocomplete": "list",
          "aria-controls": `suggest-${chatId}`,
          "aria-activedescendant":
            suggestions.list.length > 0 ? `suggest-${chatId}-${suggestions.marked}` : undefined,
        }}
        onChange={(event) => change(event.target.value)}
        onBlur={() => store.words.types(chatId, false)}
        onKeyDown={onKeyDown}
      />
      <input
        ref={chooser}
        type="file"
        multiple
        hidden
        aria-label={t`Files for ${name}`}
        onChange={(event) => {
          attach([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <span className="sr-only" role="status">
        {suggestions.list.length > 0
          ? plural(suggestions.list.length, {
              one: "# canned response fits",
              other: "# canned responses fit",
            })
          : ""}
      </span>
      <div className="row notice">
        <span className={`left ${left < 0 || stopped ? "over" : ""}`} role="status">
          {stopped ||
            (nearEnd
              ? left < 0
                ? plural(-left, { one: "# character too many", other: "# characters too many" })
                : plural(left, { one: "# character left", other: "# characters left" })
              : "")}
        </span>
        {way?.kind === "text" && !noting && trimmed ? (
          <Lazily>
            <TextLength text={trimmed} />
          </Lazily>
        ) : null}
        {!stopped && !nearEnd && primary ? <Elsewhere chatId={chatId} /> : null}
      </div>
      <Tools
        noting={noting}
        noFiles={noFiles}
        recording={recording}
        emojiButton={emojiButton}
        onAttach={() => chooser.current?.click()}
        onEmoji={() => setEmojiAt(emojiButton.current)}
        onCanned={() => {
          change(text === "" || /\s$/.test(text) ? `${text};` : `${text} ;`);
          focus();
        }}
        onNote={switchNoting}
        onArticles={setArticlesAt}
        onRecord={() => setRecording(true)}
      >
        <Button
          type="submit"
          variant={primary && (trimmed || attached.length > 0) ? "contained" : "outlined"}
          disabled={(!trimmed && (attached.length === 0 || noting)) || left < 0}
        >
          {correcting ? t`Correct` : noting ? t`Note` : t`Send`}{" "}
          <span className="key">
            <Trans>Enter</Trans>
          </span>
        </Button>
      </Tools>
      <Lazily>
        {articlesAt ? (
          <ArticleSearch
            at={articlesAt}
            chatId={chatId}
            onClose={() => setArticlesAt(null)}
            onPut={(found) => {
              setArticlesAt(null);
              change(text.trim() ? `${text.trimEnd()} ${found}` : found);
              focus();
            }}
          />
        ) : null}
        {emojiAt ? <Emoji at={emojiAt} onClose={() => setEmojiAt(null)} onPick={put} /> : null}
      </Lazily>
    </form>
  );
});
