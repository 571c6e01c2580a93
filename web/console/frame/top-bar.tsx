import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import IconButton from "@mui/material/IconButton";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useSnackbar } from "notistack";
import { useCallback, useEffect, useState } from "react";
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
  { path: "/desk", name: "Desk", admins: false },
  { path: "/floor", name: "Floor", admins: false },
  { path: "/transcripts", name: "Transcripts", admins: false },
  { path: "/setup", name: "Setup", admins: true },
];

/** The bar on top: pages, availability, and who is logged in. */
export function TopBar() {
  const { me } = useDesk();
  return (
    <header className="top">
      <Brand />
      <nav aria-label="Pages">
        {pages
          .filter((page) => !page.admins || me.role === "admin")
          .map((page) => (
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
  const { me } = useDesk();
  const { enqueueSnackbar } = useSnackbar();
  const toggle = useCallback(() => {
    store.setAvailable(!store.state.me.available).catch((error: unknown) => {
      enqueueSnackbar(wordsFor(error), { variant: "error" });
    });
  }, [store, enqueueSnackbar]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!event.altKey || event.ctrlKey || event.metaKey || event.code !== "KeyA") return;
      event.preventDefault();
      toggle();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [toggle]);
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
      <span className="load clock">
        {me.capacity > 0 ? `${me.load} of ${me.capacity} chats` : "in no department"}
      </span>
      <span className="key">Alt A</span>
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
