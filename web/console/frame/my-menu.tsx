import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { api, ask } from "../../shared/api";
import { useDeskStore, useMe } from "../desk/provider";
import { hintOf } from "../keyboard/acts";
import { pushNoMore } from "../notices/push";
import { Divider, Menu, MenuItem } from "../kit/menu";
import { sayTrouble } from "../kit/say";
import { useMode, type Choice } from "../theme/mode";
import { languages } from "../../shared/languages";
import { language } from "../../shared/speak";
import { roleWords } from "../words/codes";
import { chooseLanguage } from "../words/chosen";

interface Props {
  at: HTMLElement;
  onClose: () => void;
  onNotifications: () => void;
  onHelp: () => void;
  onPassword: () => void;
}

/** What an operator sets for themselves, and how to log out. */
export default function MyMenu({ at, onClose, onNotifications, onHelp, onPassword }: Props) {
  const me = useMe();
  const store = useDeskStore();
  const { choice, choose } = useMode();
  const speak = (code: "en" | "de") => {
    // Stored besides, for the mails to me; the page is read anew when it is.
    ask(api.PATCH("/api/me/preferences", { body: { language: code } })).then(
      () => chooseLanguage(code),
      sayTrouble,
    );
  };
  const then = (doing: () => void) => () => {
    onClose();
    doing();
  };
  const pick = (c: Choice) => () => {
    choose(c);
    onClose();
  };
  const logOut = () => {
    // The server pushes nothing without the session; the next person begins anew here.
    ask(api.DELETE("/api/session")).then(() => {
      pushNoMore().catch(() => undefined);
      store.signOut();
    }, sayTrouble);
  };
  return (
    <Menu anchorEl={at} open onClose={onClose}>
      <li className="who-am-i">
        <b>{me.name}</b>
        {me.email} · {roleWords(me.role)}
      </li>
      <Divider component="li" />
      {(["light", "dark", "system"] as const).map((c) => (
        <MenuItem key={c} selected={choice === c} onClick={pick(c)}>
          {{ light: t`Light`, dark: t`Dark`, system: t`Same as the system` }[c]}
        </MenuItem>
      ))}
      <Divider component="li" />
      {languages.map((l) => (
        <MenuItem key={l.code} lang={l.code} selected={language() === l.code} onClick={() => speak(l.code)}>
          {l.name}
        </MenuItem>
      ))}
      <Divider component="li" />
      <MenuItem onClick={then(onNotifications)}>
        <Trans>Notifications</Trans>
      </MenuItem>
      <MenuItem onClick={then(onHelp)}>
        <Trans>
          Keyboard shortcuts <span className="key push">{hintOf("help")}</span>
        </Trans>
      </MenuItem>
      <MenuItem onClick={then(onPassword)}>
        <Trans>My account</Trans>
      </MenuItem>
      <Divider component="li" />
      <MenuItem onClick={logOut}>
        <Trans>Log out</Trans>
      </MenuItem>
    </Menu>
  );
}
