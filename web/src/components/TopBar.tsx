/** The bar over every screen: where one can go, what runs, who is here, day or night. */
import { NavLink } from "react-router";

import { AccountMenu } from "./AccountMenu";
import { JobsMenu } from "./JobsMenu";

const PLACES = [
  ["/", "Horizon"],
  ["/waves", "Waves"],
  ["/work", "Work"],
  ["/knowledge", "Knowledge"],
  ["/report", "Report"],
] as const;

export function TopBar({ openPalette, theme, turnTheme }: { openPalette: () => void; theme: string; turnTheme: () => void }) {
  return (
    <header className="flex h-12 items-center gap-6 px-[22px]">
      <NavLink to="/" className="flex items-center gap-2 text-[17px] font-bold" aria-label="yoake, to the Horizon">
        <svg viewBox="0 0 16 16" width="22" height="22" aria-hidden="true">
          <path d="M4 11a4 4 0 0 1 8 0z" fill="var(--amber)" />
          <path d="M1 11.6H15" stroke="var(--ink)" strokeWidth="1.2" />
        </svg>
        yoake
      </NavLink>
      <nav aria-label="Screens" className="flex h-full items-stretch gap-5">
        {PLACES.map(([to, label]) => (
          <NavLink
            key={to}
            to={to}
            end={to === "/"}
            className={({ isActive }) => `flex items-center border-b-2 pt-0.5 ${isActive ? "border-current font-semibold" : "border-transparent quiet hover:text-[var(--ink)]"}`}
          >
            {label}
          </NavLink>
        ))}
      </nav>
      <span className="grow" />
      <JobsMenu />
      <NavLink to="/take-in" className="press">
        Add
      </NavLink>
      <AccountMenu />
      <button type="button" className="press press-quiet" onClick={turnTheme} title={theme === "day" ? "Turn to night" : "Turn to day"}>
        {theme === "day" ? "night" : "day"}
      </button>
      <button type="button" className="key py-1" onClick={openPalette} title="Open the palette">
        Ctrl K
      </button>
    </header>
  );
}
