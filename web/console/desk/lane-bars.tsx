import type { ChatView } from "../../shared/types";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import ShowingBar from "./showing-bar";
import TranslationBar from "./translation-bar";
import { WayBar } from "./way";

const AlongBar = later(() => import("./along-view"));

/** What stands over the composer of a chat that goes on in some particular way. */
export default function LaneBars({ chat }: { chat: ChatView }) {
  return (
    <>
      <TranslationBar chat={chat} />
      {chat.askedWay || chat.way?.stopped ? <WayBar chat={chat} /> : null}
      {chat.along ? (
        <Lazily>
          <AlongBar chat={chat} along={chat.along} />
        </Lazily>
      ) : null}
      {chat.showing ? <ShowingBar chatId={chat.id} page={chat.showing} /> : null}
    </>
  );
}
