import "./setup.css";
import "./hours.css";
import "./rules.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Navigate, NavLink, Route, Routes, useLocation } from "react-router";

import { useMe } from "../desk/provider";
import { usePageTitle } from "../kit/page-title";
import { ActingPage } from "./acting/page";
import { BansPage } from "./bans";
import { ChangesPage } from "./changes";
import { ChannelsPage } from "./channels";
import { ConfigurationPage } from "./configuration";
import { DeskSettingsPage } from "./desk-settings";
import { DepartmentsPage } from "./departments";
import { DryRunPage } from "./dry-run";
import { HelperPage } from "./helper/page";
import { HoursPage } from "./hours";
import { InvitationsPage } from "./invitations";
import { KeysPage } from "./keys";
import { RetentionPage } from "./retention";
import { RulesPage } from "./rules";
import { SiteDataPage } from "./site-data";
import { SitePage } from "./site";
import { StartPage } from "./start";
import { TeamPage } from "./team";
import { TicketSettingsPage } from "./tickets";
import { WebhooksPage } from "./webhooks/page";
import { WidgetsPage } from "./widgets/page";

const sections = [
  { path: "start", name: t`Getting started`, leads: false },
  { path: "departments", name: t`Departments`, leads: false },
  { path: "hours", name: t`Hours`, leads: false },
  { path: "rules", name: t`Rules`, leads: false },
  { path: "acting", name: t`Rules that act`, leads: false },
  { path: "dry-run", name: t`Dry run`, leads: false },
  { path: "team", name: t`Team`, leads: false },
  { path: "desk", name: t`Desk`, leads: false },
  { path: "tickets", name: t`Tickets`, leads: false },
  { path: "widgets", name: t`Widgets`, leads: false },
  { path: "channels", name: t`Text and email`, leads: false },
  { path: "helper", name: t`Helper`, leads: false },
  { path: "site", name: t`Site`, leads: false },
  { path: "invitations", name: t`Invitations`, leads: false },
  { path: "site-data", name: t`Site data`, leads: false },
  { path: "webhooks", name: t`Webhooks`, leads: false },
  { path: "keys", name: t`API keys`, leads: false },
  { path: "retention", name: t`Retention`, leads: false },
  { path: "changes", name: t`Changes`, leads: false },
  { path: "file", name: t`Configuration file`, leads: false },
  { path: "bans", name: t`Bans`, leads: true },
];

/** What admins set up; leads see whom the team has banned. */
export default function SetupPage() {
  const me = useMe();
  const part = useLocation().pathname.split("/")[2] ?? "";
  usePageTitle(sections.find((s) => s.path === part)?.name ?? t`Setup`);
  if (me.role === "operator") return <Navigate to="/desk" replace />;
  const admin = me.role === "admin";
  return (
    <main className="setup">
      <nav aria-label={t`Setup`}>
        <h1>
          <Trans>Setup</Trans>
        </h1>
        {sections
          .filter((s) => admin || s.leads)
          .map((s) => (
            <NavLink key={s.path} to={`/setup/${s.path}`}>
              {s.name}
            </NavLink>
          ))}
      </nav>
      <Routes>
        <Route path="bans" element={<BansPage />} />
        {admin ? (
          <>
            <Route path="start" element={<StartPage />} />
            <Route path="departments" element={<DepartmentsPage />} />
            <Route path="hours" element={<HoursPage />} />
            <Route path="rules" element={<RulesPage />} />
            <Route path="acting" element={<ActingPage />} />
            <Route path="channels" element={<ChannelsPage />} />
            <Route path="dry-run" element={<DryRunPage />} />
            <Route path="team" element={<TeamPage />} />
            <Route path="desk" element={<DeskSettingsPage />} />
            <Route path="tickets" element={<TicketSettingsPage />} />
            <Route path="site" element={<SitePage />} />
            <Route path="invitations" element={<InvitationsPage />} />
            <Route path="site-data" element={<SiteDataPage />} />
            <Route path="retention" element={<RetentionPage />} />
            <Route path="widgets" element={<WidgetsPage />} />
            <Route path="webhooks" element={<WebhooksPage />} />
            <Route path="keys" element={<KeysPage />} />
            <Route path="helper" element={<HelperPage />} />
            <Route path="changes" element={<ChangesPage />} />
            <Route path="file" element={<ConfigurationPage />} />
          </>
        ) : null}
        <Route path="*" element={<Navigate to={admin ? "/setup/departments" : "/setup/bans"} replace />} />
      </Routes>
    </main>
  );
}
