import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { EmojiPicker } from "frimousse";

import { Above } from "../kit/above";

interface Props {
  at: HTMLElement;
  onClose: () => void;
  onPick: (emoji: string) => void;
}

/** Chooses an emoji, with a search. Its names are served by Stoop itself. */
export default function Emoji({ at, onClose, onPick }: Props) {
  return (
    <Above at={at} onClose={onClose}>
      <EmojiPicker.Root
        className="emoji-picker"
        emojibaseUrl="/assets/emoji-17"
        columns={9}
        onEmojiSelect={({ emoji }) => onPick(emoji)}
      >
        <EmojiPicker.Search
          autoFocus
          className="emoji-search"
          aria-label={t`Search emoji`}
          placeholder={t`Search emoji`}
        />
        <EmojiPicker.Viewport className="emoji-list">
          <EmojiPicker.Loading className="emoji-word">
            <Trans>Loading</Trans>
          </EmojiPicker.Loading>
          <EmojiPicker.Empty className="emoji-word">
            <Trans>No matches</Trans>
          </EmojiPicker.Empty>
          <EmojiPicker.List
            components={{
              CategoryHeader: ({ category, ...props }) => (
                <div className="emoji-head" {...props}>
                  {category.label}
                </div>
              ),
              Row: ({ children, ...props }) => (
                <div className="emoji-row" {...props}>
                  {children}
                </div>
              ),
              Emoji: ({ emoji, ...props }) => (
                <button type="button" className="emoji-one" {...props}>
                  {emoji.emoji}
                </button>
              ),
            }}
          />
        </EmojiPicker.Viewport>
      </EmojiPicker.Root>
    </Above>
  );
}
