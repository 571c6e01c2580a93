import "./frame.css";

import { useState, type ReactNode } from "react";
import { useLocation } from "react-router";

import { useMe } from "../desk/provider";
import { useAct } from "../keyboard/keyboard";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { Heard } from "../notices/heard";
import { StatusStrip } from "./status-strip";
import { TopBar } from "./top-bar";

const AlertBand = later(() => import("../floor/alert-band"));
const Palette = later(() => import("../palette/palette"));
const HelpSheet = later(() => import("../palette/help-sheet"));
const Notifications = later(() => import("../notices/notifications"));
const Pushed = later(() => import("../notices/pushed"));
const TalkSheet = later(() => import("../talk/talk"));

/** What stands around every page of the console, and what lies over it. */
export function Frame({ children }: { children: ReactNode }) {
  const [over, setOver] = useState<"palette" | "help" | "notifications" | undefined>();
  const [talk, setTalk] = useState<{ with?: string } | undefined>();
  const close = () => setOver(undefined);
  const leads = useMe().role !== "operator";
  const single = useLocation().pathname.startsWith("/lane/");
  useAct("palette", () => setOver("palette"));
  useAct("help", () => setOver("help"));
  useAct("notifications", () => setOver("notifications"));
  useAct("talk", () => setTalk((open) => (open ? undefined : {})));
  return (
    <div className={`frame ${single ? "single" : ""}`}>
      {single ? null : (
        <TopBar
          onPalette={() => setOver("palette")}
          onNotifications={() => setOver("notifications")}
          onHelp={() => setOver("help")}
          onTalk={() => setTalk(talk ? undefined : {})}
          talking={talk !== undefined}
        />
      )}
      {children}
      {leads && !single ? (
        <Lazily>
          <AlertBand />
        </Lazily>
      ) : null}
      <StatusStrip />
      <Heard />
      <Lazily>
        <Pushed />
        {over === "palette" ? (
          <Palette onClose={close} onTalk={(id) => setTalk({ with: id })} />
        ) : over === "help" ? (
          <HelpSheet onClose={close} />
        ) : over === "notifications" ? (
          <Notifications onClose={close} />
        ) : null}
        {talk ? (
          <TalkSheet key={talk.with ?? ""} with={talk.with} onClose={() => setTalk(undefined)} />
        ) : null}
      </Lazily>
    </div>
  );
}
