/** One application on the Horizon. */
import { memo } from "react";
import { Link } from "react-router";

import type { Row } from "../../api/types";
import { Explain } from "../../components/Explain";
import { Sun } from "../../components/Sun";
import type { Axis } from "../../lib/axis";
import { day, effort, percent, signedWeeks } from "../../lib/format";
import { LaneChart } from "./LaneChart";

type Props = { row: Row; axis: Axis; width: number; today: string; selected: boolean; current: boolean; select: (slug: string, range: boolean) => void };

export const COLUMNS = "grid-cols-[26px_250px_1fr_76px_92px]";

export const HorizonRow = memo(function HorizonRow({ row, axis, width, today, selected, current, select }: Props) {
  return (
    <div
      className={`grid ${COLUMNS} items-center border-b hair ${current ? "sheet" : ""}`}
      style={current ? { boxShadow: "inset 3px 0 var(--press)" } : undefined}
      data-slug={row.slug}
    >
      <input
        type="checkbox"
        className="checkbox checkbox-xs ml-1.5 border-[var(--line)]"
        checked={selected}
        aria-label={`Select ${row.name}`}
        onChange={() => undefined}
        onClick={(event) => select(row.slug, event.shiftKey)}
      />
      <div className="min-w-0 pr-4 leading-tight">
        <div className="flex items-baseline justify-between gap-2">
          <Link to={`/applications/${row.slug}`} className="truncate font-semibold hover:underline" title={row.name}>
            {row.name}
          </Link>
          <span className="quiet max-w-24 shrink-0 truncate text-[12.5px]" title={row.owner ? `${row.team}, ${row.owner}` : row.team}>
            {row.team}
          </span>
        </div>
        <div className="quiet truncate text-[12.5px]" title={row.problem || row.today.map((l) => `${l.name} ${l.line}: ${l.where || l.how}`).join("; ")}>
          <Standing row={row} />
        </div>
      </div>
      <LaneChart row={row} axis={axis} width={width} today={today} />
      <Margin row={row} />
      <Clear row={row} />
    </div>
  );
});

function Standing({ row }: { row: Row }) {
  if (row.state === "failed") return <span style={{ color: "var(--rose-text)" }}>last scan failed: {row.problem}</span>;
  if (row.state === "running") return <>being scanned</>;
  if (row.state === "waiting") return <>waiting to be scanned</>;
  if (row.state === "never") return <>not scanned yet</>;
  const seen = new Set<string>();
  const parts = row.today.filter((l) => !seen.has(l.coordinate) && seen.add(l.coordinate)).map((l) => `${l.name} ${l.line}${l.how === "inferred" ? " (inferred)" : ""}`);
  const unread = row.languages.map((language) => `${language} not read yet`);
  return <>{[...parts, ...unread].join(" · ") || "nothing known of it yet"}</>;
}

function Margin({ row }: { row: Row }) {
  if (row.arrived) return <span className="quiet pr-3 text-right text-[13px]">arrived</span>;
  if (row.margin === null && row.lanes.length > 0 && row.stages.length === 0 && row.runway !== null) return <span className="quiet pr-3 text-right text-[13px]">at its goal</span>;
  if (row.margin === null) return <span className="quiet pr-3 text-right text-[13px]">not known</span>;
  const late = row.margin < 0;
  return (
    <span className="flex items-center justify-end gap-2 pr-3">
      {late && <span aria-hidden="true" className="h-8 w-1" style={{ background: "repeating-linear-gradient(135deg, var(--night) 0 3px, var(--night-stripe) 3px 5px)" }} />}
      <Explain label={`Margin of ${row.name}: ${signedWeeks(row.margin)}; show how it is computed`} figure={signedWeeks(row.margin)} className={late ? "font-bold" : ""}>
        <b>Margin {signedWeeks(row.margin)}</b> ({row.margin} days): the smallest, over all lines it stands on, of max(support end, today) − the date (80 %) at which the plan leaves
        the line. Work {effort(row.effort50)} to {effort(row.effort80)} at {row.days_per_week} days a week
        {row.arrival50 ? `, arriving ${day(row.arrival50)} (50 %) to ${day(row.arrival80)} (80 %)` : ""}.{" "}
        {row.unsupported_since ? `Unsupported since ${day(row.unsupported_since)}.` : row.runway !== null ? `Runway ${row.runway} days.` : ""}{" "}
        <Link className="underline" to={`/applications/${row.slug}/path`}>
          See the path
        </Link>
      </Explain>
    </span>
  );
}

function Clear({ row }: { row: Row }) {
  return (
    <span className="flex items-center justify-end gap-2 pr-1">
      <Sun share={row.clear === null ? null : row.sure} known={row.known} />
      <span className="w-12 text-right text-[13.5px]">
        {row.clear === null ? (
          <span className="quiet">?</span>
        ) : (
          <Explain label={`${percent(row.sure)} of ${row.name} known to hold; show how it is computed`} figure={percent(row.sure)}>
            <b>{percent(row.sure)} known to hold</b>: weight of the checks that hold ÷ weight of all. {percent(row.known)} of all checks are known, and of those {percent(row.clear)} hold.{" "}
            {row.errors} errors, {row.warnings} warnings, {row.notes} notes.{" "}
            <Link className="underline" to={`/applications/${row.slug}?by=coverage`}>
              See the coverage
            </Link>
          </Explain>
        )}
      </span>
    </span>
  );
}
