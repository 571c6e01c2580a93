import "../setup/setup.css";
import "./library.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Navigate, NavLink, Route, Routes } from "react-router";

import { useMe } from "../desk/provider";
import { ArticlesPage } from "./articles";
import { usePageTitle } from "../kit/page-title";
import { CannedPage } from "./canned";
import { PagesPage } from "./pages";
import { SaidAgainPage } from "./said-again";

/** The Library: answers to send and articles to read. */
export default function LibraryPage() {
  usePageTitle(t`Library`);
  const leads = useMe().role !== "operator";
  return (
    <main className="setup library">
      <nav aria-label={t`Library`}>
        <h1>
          <Trans>Library</Trans>
        </h1>
        <NavLink to="/library/canned">
          <Trans>Canned responses</Trans>
        </NavLink>
        <NavLink to="/library/articles">
          <Trans>Articles</Trans>
        </NavLink>
        <NavLink to="/library/pages">
          <Trans>Pages to show</Trans>
        </NavLink>
        {leads ? (
          <NavLink to="/library/said-again">
            <Trans>Said again</Trans>
          </NavLink>
        ) : null}
      </nav>
      <Routes>
        <Route path="canned" element={<CannedPage />} />
        <Route path="articles/:id?" element={<ArticlesPage />} />
        <Route path="pages/:id?" element={<PagesPage />} />
        {leads ? <Route path="said-again" element={<SaidAgainPage />} /> : null}
        <Route path="*" element={<Navigate to="/library/canned" replace />} />
      </Routes>
    </main>
  );
}
