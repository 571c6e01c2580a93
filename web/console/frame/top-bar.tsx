import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import IconButton from "@mui/material/IconButton";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { NavLink } from "react-router";

import { api, ask } from "../../shared/api";
import { initials } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import { useDesk, useDeskStore } from "../desk/provider";
import { Icons } from "../icons";
import { askForDesktopNotices, desktopNotices } from "../notices/desktop";
import { useMode, type Choice } from "../theme/mode";
import { Brand } from "./brand";

const pages = [
  { path: "/desk", name: "Desk" },
  { path: "/transcripts", name: "Transcripts" },
];

/** The bar on top: pages, availability, and who is logged in. */
export function TopBar() {
  return (
    <header className="top">
      <Brand />
      <nav aria-label="Pages">
        {pages.map((page) => (
          <NavLink key={page.path} to={page.path}>
            {page.name}
          </NavLink>
        ))}
      </nav>
      <div className="right">
        <Availability />
        <MyMenu />
      </div>
    </header>
  );
}

function Availability() {
  const store = useDeskStore();
  const { me, chats } = useDesk();
  const { enqueueSnackbar } = useSnackbar();
  const load = [...chats.values()].filter((c) => c.phase === "active" && c.ownerId === me.id).length;
  const toggle = () => {
    store.setAvailable(!me.available).catch((error: unknown) => {
      enqueueSnackbar(wordsFor(error), { variant: "error" });
    });
  };
  return (
    <Button
      variant="outlined"
      className={`availability ${me.available ? "is-available" : "is-away"}`}
      aria-pressed={me.available}
      title={
        me.available ? "New chats ring. Press to become away" : "Nothing rings. Press to become available"
      }
      onClick={toggle}
    >
      {me.available ? <Icons.Check /> : <Icons.Pause />}
      {me.available ? "Available" : "Away"}
      <span className="load clock">{load === 1 ? "1 chat" : `${load} chats`}</span>
    </Button>
  );
}

function MyMenu() {
  const { me } = useDesk();
  const store = useDeskStore();
  const { choice, choose } = useMode();
  const { enqueueSnackbar } = useSnackbar();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const close = () => setAnchor(null);
  const pick = (c: Choice) => () => {
    choose(c);
    close();
  };
  const logOut = () => {
    ask(api.DELETE("/api/session")).then(
      () => store.signOut(),
      (error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" }),
    );
  };
  return (
    <>
      <IconButton
        className="face"
        aria-label={`${initials(me.name)}, ${me.name}: settings and log out`}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {initials(me.name)}
      </IconButton>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        <li className="who-am-i">
          <b>{me.name}</b>
          {me.email} · {me.role}
        </li>
        <Divider component="li" />
        {(["light", "dark", "system"] as const).map((c) => (
          <MenuItem key={c} selected={choice === c} onClick={pick(c)}>
            {{ light: "Light", dark: "Dark", system: "Light or dark as the system" }[c]}
          </MenuItem>
        ))}
        <Divider component="li" />
        {desktopNotices() === "default" ? (
          <MenuItem
            onClick={() => {
              close();
              void askForDesktopNotices();
            }}
          >
            Turn on desktop notifications
          </MenuItem>
        ) : (
          <li className="who-am-i">
            Desktop notifications {desktopNotices() === "granted" ? "are on" : "are blocked in this browser"}
          </li>
        )}
        <Divider component="li" />
        <MenuItem onClick={logOut}>Log out</MenuItem>
      </Menu>
    </>
  );
}
