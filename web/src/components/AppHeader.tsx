/** The head of an application's screens: its name, the answer, and where one can go from it. */
import { NavLink } from "react-router";

import type { Row } from "../api/types";
import { figure, moment } from "../lib/format";
import { useScans } from "./useScans";

type Props = { row: Row; heading: string; emphasis: string };

export function AppHeader({ row, heading, emphasis }: Props) {
  const base = `/applications/${row.slug}`;
  const { scan } = useScans();
  const link = ({ isActive }: { isActive: boolean }) => `border-b-2 pb-1.5 ${isActive ? "border-current font-semibold" : "border-transparent quiet hover:text-[var(--ink)]"}`;
  return (
    <div className="flex items-end justify-between gap-6 border-b px-[22px] pt-1 hair">
      <div className="min-w-0 pb-2.5">
        <h1 className="truncate text-[23px] leading-tight font-bold tracking-tight" title={row.name}>
          {row.name}
        </h1>
        <p className="quiet line-clamp-2 leading-snug">
          {heading} <b className="text-[var(--ink)]">{emphasis}</b>
        </p>
      </div>
      <div className="flex shrink-0 items-end gap-5">
        <button type="button" className="press mb-2" onClick={() => scan({ applications: [row.slug], text: () => `${row.name} is in the queue.` })} title={`Last scan ${moment(row.scanned_at)}`}>
          {row.state === "running" || row.state === "waiting" ? "Scanning …" : "Scan again"}
        </button>
        <nav aria-label={`Screens of ${row.name}`} className="flex gap-5">
          <NavLink end to={base} className={link}>
            Evidence
          </NavLink>
          <NavLink to={`${base}/path`} className={link}>
            Path
          </NavLink>
          <NavLink to={`${base}/edits`} className={link}>
            Edits
          </NavLink>
          <NavLink to={`${base}/proof`} className={link}>
            Proof
          </NavLink>
          <NavLink to={`${base}/crossing`} className={link}>
            Crossing
          </NavLink>
          <NavLink to={`${base}/work`} className={link}>
            Work{row.open_steps > 0 ? ` ${figure(row.open_steps)}` : ""}
          </NavLink>
          <NavLink to={`/report?application=${row.slug}`} className={() => link({ isActive: false })}>
            Report
          </NavLink>
        </nav>
      </div>
    </div>
  );
}
