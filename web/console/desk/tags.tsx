import "./later.css";

import { t } from "@lingui/core/macro";
import { keep, kept } from "../../shared/storage";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Combo } from "../kit/combo";
import { useAbout } from "./about-query";
import { sayTrouble } from "../kit/say";
import { Tag } from "../kit/tag";
import { useDeskStore } from "./provider";

/** The tags of a chat, with suggestions of those in use. */
export function Tags({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const about = useAbout(chat);
  const [typed, setTyped] = useKept(`stoop.desk.tag.${chat.id}`);
  const add = (words: string) => {
    const tag = words.trim();
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
        <Tag
          key={tag}
          removal={t`Remove the tag ${tag}`}
          onRemove={() => void store.acts.tag(chat.id, tag, false).catch(sayTrouble)}
        >
          {tag}
        </Tag>
      ))}
      <Combo
        bare
        label={t`Add a tag`}
        placeholder={t`Add tag`}
        value={typed ?? ""}
        options={others}
        most={40}
        change={(value) => setTyped(value || null)}
        settle={add}
      />
    </div>
  );
}
