/** The parts of the portfolio in time. */
import { NavLink } from "react-router";

const PARTS = [
  ["/waves", "Weeks"],
  ["/waves/forecast", "Forecast"],
  ["/waves/links", "Who requires whom"],
  ["/waves/teams", "Teams and days off"],
] as const;

export function WavesNav() {
  return (
    <nav aria-label="Parts of the plan" className="flex items-center gap-4 text-[14px]">
      {PARTS.map(([to, label]) => (
        <NavLink key={to} to={to} end className={({ isActive }) => (isActive ? "font-semibold underline decoration-2 underline-offset-4" : "quiet hover:text-[var(--ink)]")}>
          {label}
        </NavLink>
      ))}
    </nav>
  );
}
