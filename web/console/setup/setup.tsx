import "./setup.css";

import { Navigate, NavLink, Route, Routes } from "react-router";

import { useDesk } from "../desk/provider";
import { DepartmentsPage } from "./departments";
import { HoursPage } from "./hours";
import { RulesPage } from "./rules";
import { TeamPage } from "./team";

const sections = [
  { path: "departments", name: "Departments" },
  { path: "hours", name: "Hours" },
  { path: "rules", name: "Rules" },
  { path: "team", name: "Team" },
];

/** What admins set up. */
export default function SetupPage() {
  const { me } = useDesk();
  if (me.role !== "admin") return <Navigate to="/desk" replace />;
  return (
    <main className="setup">
      <nav aria-label="Setup">
        <h1>Setup</h1>
        {sections.map((s) => (
          <NavLink key={s.path} to={`/setup/${s.path}`}>
            {s.name}
          </NavLink>
        ))}
      </nav>
      <Routes>
        <Route path="departments" element={<DepartmentsPage />} />
        <Route path="hours" element={<HoursPage />} />
        <Route path="rules" element={<RulesPage />} />
        <Route path="team" element={<TeamPage />} />
        <Route path="*" element={<Navigate to="/setup/departments" replace />} />
      </Routes>
    </main>
  );
}
