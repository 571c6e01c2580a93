import { api, ask } from "../../shared/api";
import { useDeskStore, useMe } from "../desk/provider";
import { hintOf } from "../keyboard/acts";
import { Divider, Menu, MenuItem } from "../kit/menu";
import { sayTrouble } from "../kit/say";
import { useMode, type Choice } from "../theme/mode";

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
  const then = (doing: () => void) => () => {
    onClose();
    doing();
  };
  const pick = (c: Choice) => () => {
    choose(c);
    onClose();
  };
  const logOut = () => {
    ask(api.DELETE("/api/session")).then(() => store.signOut(), sayTrouble);
  };
  return (
    <Menu anchorEl={at} open onClose={onClose}>
      <li className="who-am-i">
        <b>{me.name}</b>
        {me.email} · {me.role}
      </li>
      <Divider component="li" />
      {(["light", "dark", "system"] as const).map((c) => (
        <MenuItem key={c} selected={choice === c} onClick={pick(c)}>
          {{ light: "Light", dark: "Dark", system: "Same as the system" }[c]}
        </MenuItem>
      ))}
      <Divider component="li" />
      <MenuItem onClick={then(onNotifications)}>Notifications</MenuItem>
      <MenuItem onClick={then(onHelp)}>
        Keyboard shortcuts <span className="key push">{hintOf("help")}</span>
      </MenuItem>
      <MenuItem onClick={then(onPassword)}>Change password</MenuItem>
      <Divider component="li" />
      <MenuItem onClick={logOut}>Log out</MenuItem>
    </Menu>
  );
}
