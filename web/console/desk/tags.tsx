import { useId } from "react";

import { keep, kept } from "../../shared/storage";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Icons } from "../icons";
import {} from "../kit/say";
import { useAbout } from "./about-query";
import { sayTrouble } from "../kit/say";
import { useDeskStore } from "./provider";

/** The tags of a chat, with suggestions of those in use. */
export function Tags({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const about = useAbout(chat);
  const [typed, setTyped] = useKept(`stoop.desk.tag.${chat.id}`);
  const list = useId();
  const add = () => {
    const tag = (typed ?? "").trim();
    if (!tag) return;
    setTyped(null);
    store.acts.tag(chat.id, tag, true).catch((error: unknown) => {
      // Unless another one is being typed by now.
      const keptAs = `stoop.desk.tag.${chat.id}`;
      if (kept(keptAs) === null) keep(keptAs, tag);
      sayTrouble(error);
    });
  };
  const others = (about.data?.tags ?? []).filter((t) => !chat.tags.includes(t));
  return (
    <div className="tags">
      {chat.tags.map((tag) => (
        <span key={tag} className="tag">
          <bdi>{tag}</bdi>
          <button
            aria-label={`Remove the tag ${tag}`}
            onClick={() => store.acts.tag(chat.id, tag, false).catch(sayTrouble)}
          >
            <Icons.Close />
          </button>
        </span>
      ))}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          add();
        }}
      >
        <input
          value={typed ?? ""}
          list={list}
          placeholder="Add tag"
          aria-label="Add a tag"
          dir="auto"
          maxLength={40}
          onChange={(e) => setTyped(e.target.value || null)}
          onBlur={add}
        />
        <datalist id={list}>
          {others.map((t) => (
            <option key={t} value={t} />
          ))}
        </datalist>
      </form>
    </div>
  );
}
