import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useCallback, useState } from "react";
import { NavLink } from "react-router";

import { initials } from "../../shared/format";
import { useDeskStore, useMe } from "../desk/provider";
import { Icons } from "../icons";
import { hintOf } from "../keyboard/acts";
import { useAct } from "../keyboard/keyboard";
import { Button, IconButton } from "../kit/button";
import { Hint } from "../kit/hint";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { sayTrouble } from "../kit/say";
import { useRooms } from "../talk/rooms";
import { Brand } from "./brand";

const MenuOfMine = later(() => import("./my-menu"));
const Account = later(() => import("../session/account"));

const pages: { path: string; name: string; leads?: boolean }[] = [
  { path: "/desk", name: t`Desk` },
  { path: "/visitors", name: t`Visitors` },
  { path: "/floor", name: t`Floor` },
  { path: "/tickets", name: t`Tickets` },
  { path: "/transcripts", name: t`Transcripts` },
  // Leads come to feedback from the reports' ratings.
  { path: "/feedback", name: t`Feedback`, leads: false },
  { path: "/contacts", name: t`Contacts` },
  { path: "/reports", name: t`Reports`, leads: true },
  { path: "/library", name: t`Library` },
  { path: "/setup", name: t`Setup`, leads: true },
];

interface Props {
  onPalette: () => void;
  onNotifications: () => void;
  onHelp: () => void;
  onTalk: () => void;
  talking: boolean;
}

/** The bar on top: pages, availability, and who is logged in. */
export function TopBar({ onPalette, onNotifications, onHelp, onTalk, talking }: Props) {
  const me = useMe();
  return (
    <header className="top">
      <Brand />
      <nav aria-label={t`Pages`}>
        {pages
          .filter((page) => page.leads !== (me.role === "operator"))
          .map((page) => (
            <NavLink key={page.path} to={page.path}>
              {page.name}
            </NavLink>
          ))}
      </nav>
      <div className="right">
        <Button variant="outlined" className="find" onClick={onPalette}>
          <Icons.Search />
          <span className="sr-only">
            <Trans>Find anything</Trans>
          </span>
          <span className="words" aria-hidden="true">
            <Trans>Find</Trans>
          </span>
          <span className="key">{hintOf("palette")}</span>
        </Button>
        <TalkButton onClick={onTalk} open={talking} />
        <Availability />
        <MyMenu onNotifications={onNotifications} onHelp={onHelp} />
      </div>
    </header>
  );
}

function TalkButton({ onClick, open }: { onClick: () => void; open: boolean }) {
  const rooms = useRooms();
  const unseen = (rooms.data ?? []).reduce((n, r) => n + r.unseen, 0);
  return (
    <Hint words={t`Team talk`} act="talk">
      <IconButton
        className="talk-button"
        aria-label={unseen > 0 ? t`Team talk, ${unseen} new` : t`Team talk`}
        aria-pressed={open}
        onClick={onClick}
      >
        <Icons.Table />
        {unseen > 0 ? <span className="count new">{unseen > 99 ? "99+" : unseen}</span> : null}
      </IconButton>
    </Hint>
  );
}

function Availability() {
  const store = useDeskStore();
  const me = useMe();
  const toggle = useCallback(() => {
    store.acts.setAvailable(!store.stores.team.getState().me.available).catch(sayTrouble);
  }, [store]);
  useAct("availability", toggle);
  return (
    <Hint
      words={
        me.available
          ? t`New chats reach you. Press to be away`
          : t`No new chats reach you. Press to be available`
      }
      act="availability"
    >
      <Button
        variant="outlined"
        className={`availability ${me.available ? "is-available" : "is-away"}`}
        aria-pressed={me.available}
        onClick={toggle}
      >
        {me.available ? <Icons.Check /> : <Icons.Pause />}
        {me.available ? t`Available` : t`Away`}
        <span className="load clock">
          {me.capacity > 0 ? t`${me.load} of ${me.capacity} chats` : t`in no department`}
        </span>
        <span className="key">{hintOf("availability")}</span>
      </Button>
    </Hint>
  );
}

function MyMenu(props: { onNotifications: () => void; onHelp: () => void }) {
  const me = useMe();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [changing, setChanging] = useState(false);
  return (
    <>
      <IconButton
        className="face"
        aria-label={t`${initials(me.name)}, ${me.name}: settings and log out`}
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {initials(me.name)}
      </IconButton>
      <Lazily>
        {anchor ? (
          <MenuOfMine
            {...props}
            at={anchor}
            onClose={() => setAnchor(null)}
            onPassword={() => setChanging(true)}
          />
        ) : null}
        {changing ? <Account onClose={() => setChanging(false)} /> : null}
      </Lazily>
    </>
  );
}
