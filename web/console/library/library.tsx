import "../setup/setup.css";
import "./library.css";

import { Navigate, NavLink, Route, Routes } from "react-router";

import { ArticlesPage } from "./articles";
import { usePageTitle } from "../kit/page-title";
import { CannedPage } from "./canned";

/** The Library: answers to send and articles to read. */
export default function LibraryPage() {
  usePageTitle("Library");
  return (
    <main className="setup library">
      <nav aria-label="Library">
        <h1>Library</h1>
        <NavLink to="/library/canned">Canned responses</NavLink>
        <NavLink to="/library/articles">Articles</NavLink>
      </nav>
      <Routes>
        <Route path="canned" element={<CannedPage />} />
        <Route path="articles/:id?" element={<ArticlesPage />} />
        <Route path="*" element={<Navigate to="/library/canned" replace />} />
      </Routes>
    </main>
  );
}
