import "./palette.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { useChats, useDeskStore, useMe, useTeam, useWindows } from "../desk/provider";
import { mine, waiting } from "../desk/store/lists";
import { Icons } from "../icons";
import { actWords } from "../keyboard/acts-words";
import { acts, hintOf } from "../keyboard/acts";
import { useActs } from "../keyboard/keyboard";
import { Dialog } from "../kit/dialog";
import { Finder } from "../kit/finder";
import { statusWords } from "../tickets/words";
import { stateWords } from "../words/codes";
import { nameOf } from "../desk/name-of";

interface Entry {
  id: string;
  group: string;
  words: string;
  about: string;
  hint?: string;
  run: () => void;
}

interface Props {
  onClose: () => void;
  /** Opens the team talk with somebody. */
  onTalk: (operatorId: string) => void;
}

/** Finds acts, chats, people, canned responses and articles by their words. */
export default function Palette({ onClose, onTalk }: Props) {
  const [text, setText] = useState("");
  const entries = useEntries(text.trim(), onTalk);
  const choose = (entry: Entry) => {
    onClose();
    // After the dialog has given the focus back.
    setTimeout(entry.run);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      fullWidth
      maxWidth="sm"
      aria-label={t`Find anything`}
      slotProps={{ paper: { className: "palette" }, container: { className: "palette-place" } }}
    >
      <Finder
        label={t`Find anything`}
        placeholder={t`Actions, chats, people, canned responses, articles`}
        icon={<Icons.Search />}
        typed={text}
        type={setText}
        entries={entries}
        keyOf={(e) => `${e.group} ${e.id}`}
        wordsOf={(e) => e.words}
        choose={choose}
        leave={onClose}
        draw={(e, before) => (
          <>
            <span className="group">{before?.group === e.group ? "" : e.group}</span>
            <span className="cut words">
              <bdi>{e.words}</bdi>
            </span>
            <span className="cut more-about" dir="auto">
              {e.about}
            </span>
            {e.hint ? <span className="key">{e.hint}</span> : null}
          </>
        )}
      />
      {entries.length === 0 ? (
        <p className="none">
          <Trans>No matches. Try fewer letters.</Trans>
        </p>
      ) : null}
    </Dialog>
  );
}

/** All that fits what is typed: own things at once, found ones as they come. */
function useEntries(text: string, onTalk: (operatorId: string) => void): Entry[] {
  const store = useDeskStore();
  const registry = useActs();
  const navigate = useNavigate();
  const chats = useChats((s) => s.chats);
  const operators = useTeam((s) => s.operators);
  const me = useMe();
  const focused = useWindows((s) => s.focused);
  const later = useLater(text);
  const found = useQuery({
    queryKey: ["palette", later],
    enabled: later.length > 1,
    queryFn: async () => {
      const words = later;
      const [transcripts, articles, tickets] = await Promise.all([
        ask(api.GET("/api/transcripts", { params: { query: { words } } })),
        ask(api.GET("/api/articles", { params: { query: { words } } })),
        ask(api.GET("/api/tickets", { params: { query: { words, status: "all", order: "updated" } } })),
      ]);
      return {
        transcripts: transcripts.hits.slice(0, 6),
        articles: articles.slice(0, 6),
        tickets: tickets.tickets.slice(0, 6),
      };
    },
  });
  const inUse = chats.get(focused);
  const canned = useQuery({
    queryKey: ["palette-canned", later, focused],
    enabled: later.length > 1 && inUse !== undefined && inUse.phase === "active",
    queryFn: () => store.words.suggest(focused, later, true),
  });
  const numbers = useWindows((s) => s.lanes.numbers);
  return useMemo(() => {
    const terms = text.toLowerCase().split(/\s+/).filter(Boolean);
    const fits = (...words: string[]) => {
      const all = words.join(" ").toLowerCase();
      return terms.every((t) => all.includes(t));
    };
    const entries: Entry[] = [];
    for (const chat of [...mine(chats, me, numbers), ...waiting(chats, me)]) {
      const name = nameOf(chat);
      if (!fits(name, chat.email, chat.lastWords)) continue;
      const waits = chat.phase === "waiting";
      entries.push({
        id: chat.id,
        group: waits ? t`Waiting` : t`With me`,
        words: name,
        about: chat.lastWords,
        run: () => {
          void navigate("/desk");
          if (waits) void store.acts.take(chat.id);
          else store.screen.writeTo(chat.id);
        },
      });
    }
    for (const act of acts) {
      if (!registry.can(act.id) || !fits(actWords(act.id), act.group)) continue;
      entries.push({
        id: act.id,
        group: t`Actions`,
        words: actWords(act.id),
        about: "",
        hint: hintOf(act.id),
        run: () => registry.run(act.id),
      });
    }
    for (const o of operators) {
      if (o.id === me.id || terms.length === 0 || !fits(o.name, o.email)) continue;
      entries.push({
        id: o.id,
        group: t`People`,
        words: o.name,
        about: `${stateWords(o.state)} · ${t`send a message`}`,
        run: () => onTalk(o.id),
      });
    }
    if (terms.length > 0) {
      for (const s of canned.data ?? []) {
        entries.push({
          id: s.id,
          group: t`Canned`,
          words: `;${s.shortcut}`,
          about: s.text,
          run: () => store.words.putInComposer(focused, s),
        });
      }
      for (const a of found.data?.articles ?? []) {
        entries.push({
          id: a.id ?? a.title,
          group: t`Articles`,
          words: a.title,
          about: a.excerpt ?? a.folder,
          run: () => void navigate(`/library/articles/${a.id ?? ""}`),
        });
      }
      for (const ticket of found.data?.tickets ?? []) {
        entries.push({
          id: ticket.id,
          group: t`Tickets`,
          words: `${ticket.number}: ${ticket.title}`,
          about: [statusWords(ticket.status), ticket.name].filter(Boolean).join(" · "),
          run: () => void navigate(`/tickets/${ticket.number}`),
        });
      }
      for (const hit of found.data?.transcripts ?? []) {
        entries.push({
          id: hit.chat.id,
          group: t`Transcripts`,
          words: nameOf(hit.chat),
          about: `${dayAndTime(hit.chat.startedAt)} · ${hit.excerpt}`,
          run: () => void navigate(`/transcripts/${hit.chat.id}`),
        });
      }
    }
    return entries.slice(0, 60);
  }, [
    text,
    chats,
    operators,
    me,
    numbers,
    found.data,
    canned.data,
    focused,
    store,
    registry,
    navigate,
    onTalk,
  ]);
}

/** What was typed, a moment after the last key. */
function useLater(text: string): string {
  const [later, setLater] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setLater(text), 140);
    return () => clearTimeout(timer);
  }, [text]);
  return later;
}
