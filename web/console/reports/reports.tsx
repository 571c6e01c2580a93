import "./reports.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { NavLink, Navigate, Route, Routes, useLocation } from "react-router";

import { useMe } from "../desk/provider";
import { Icons } from "../icons";
import { LaterIcons } from "../icons-later";
import { Button } from "../kit/button";
import { Menu, MenuItem } from "../kit/menu";
import { usePageTitle } from "../kit/page-title";
import type { Asked } from "../filters/asked";
import { ByMail } from "./by-mail";
import { FilterBar } from "./filter-bar";
import Invitations from "./invitations";
import Overview from "./overview";
import Ratings from "./ratings";
import Sales from "./sales";
import Speed from "./speed";
import Staffing from "./staffing";
import { useAsked } from "./use-report";
import Tickets from "./tickets";
import What from "./what";
import When from "./when";
import Who from "./who";

const screens = [
  { path: "overview", name: t`Overview`, by: "date" },
  { path: "when", name: t`When`, by: "hour" },
  { path: "speed", name: t`How fast`, by: "department" },
  { path: "who", name: t`Who`, by: "operators" },
  { path: "what", name: t`What about`, by: "tag" },
  { path: "invitations", name: t`Invitations`, by: "invitation" },
  { path: "ratings", name: t`Ratings`, by: "rating" },
  { path: "sales", name: t`Sales`, by: "date" },
  { path: "tickets", name: t`Tickets`, by: "" },
  { path: "staffing", name: t`Staffing`, by: "" },
] as const;

/** What all chats of a period add up to. */
export default function ReportsPage() {
  usePageTitle(t`Reports`);
  const me = useMe();
  const { search, pathname } = useLocation();
  const screen = screens.find((s) => pathname.endsWith(`/${s.path}`)) ?? screens[0];
  if (me.role === "operator") {
    return (
      <main className="reports">
        <p className="notice" role="alert">
          <Trans>Reports are for leads and admins. Your own ratings stand in Feedback.</Trans>
        </p>
      </main>
    );
  }
  return (
    <main className="reports">
      <header>
        <h1>
          <Trans>Reports</Trans>
        </h1>
        <nav aria-label={t`Reports`}>
          {screens.map((s) => (
            <NavLink key={s.path} to={{ pathname: `/reports/${s.path}`, search }}>
              {s.name}
            </NavLink>
          ))}
        </nav>
        {screen.by ? <Take by={screen.by} /> : null}
      </header>
      {screen.by ? <FilterBar /> : null}
      <div className="pages">
        <Routes>
          <Route path="overview" element={<Overview />} />
          <Route path="when" element={<When />} />
          <Route path="speed" element={<Speed />} />
          <Route path="who" element={<Who />} />
          <Route path="what" element={<What />} />
          <Route path="invitations" element={<Invitations />} />
          <Route path="ratings" element={<Ratings />} />
          <Route path="sales" element={<Sales />} />
          <Route path="tickets" element={<Tickets />} />
          <Route path="staffing" element={<Staffing />} />
          <Route path="*" element={<Navigate to={{ pathname: "/reports/overview", search }} replace />} />
        </Routes>
      </div>
    </main>
  );
}

/** Takes the report along: as a file, or on paper. */
function Take({ by }: { by: string }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const [mailing, setMailing] = useState(false);
  const { asked, address } = useAsked();
  const file = (format: string) => {
    const query = new URLSearchParams({ format });
    if (by === "operators") query.set("operators", "true");
    else query.set("by", by);
    for (const [name, value] of Object.entries(asked) as [keyof Asked, unknown][]) {
      for (const one of Array.isArray(value) ? value : [value]) query.append(name, String(one));
    }
    return `/api/reports/file?${query.toString()}`;
  };
  return (
    <>
      <Button
        variant="outlined"
        startIcon={<Icons.Download />}
        aria-haspopup="menu"
        onClick={(event) => setAt(event.currentTarget)}
      >
        <Trans>Export</Trans>
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)} onClick={() => setAt(null)}>
        <MenuItem component="a" href={file("xlsx")} download>
          <Trans>Spreadsheet (XLSX)</Trans>
        </MenuItem>
        <MenuItem component="a" href={file("csv")} download>
          <Trans>Table (CSV)</Trans>
        </MenuItem>
        <MenuItem onClick={() => setMailing(true)}>
          <Icons.Letter /> <Trans>By email, regularly</Trans>
        </MenuItem>
        <MenuItem onClick={() => setTimeout(() => window.print())}>
          <LaterIcons.Print /> <Trans>Print</Trans>
        </MenuItem>
      </Menu>
      {mailing ? <ByMail address={address} done={() => setMailing(false)} /> : null}
    </>
  );
}
