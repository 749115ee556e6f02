/** Who is in the dark, and when? Every application on one time axis, worst margin first. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { ApiError, post } from "../../api/client";
import { portfolioQuery } from "../../api/queries";
import type { JobsAsked } from "../../api/types";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { axisFor, place, ticks } from "../../lib/axis";
import { dateOf, plural } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { useWidth } from "../../lib/width";
import { COLUMNS, HorizonRow } from "./HorizonRow";
import { LightPatterns, ROW_HEIGHT } from "./LaneChart";
import { type Grouping, grouped, matches, type Sort, sorted } from "./rows";
import { SelectionBar } from "./SelectionBar";
import { useSelection } from "./selection";

export default function Horizon() {
  const query = useQuery(portfolioQuery);
  if (query.isPending) return <Waiting what="the portfolio" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (query.data.rows.length === 0) {
    return (
      <Empty alone title="No application is looked after here yet.">
        Take in a folder, a git repository, an archive, or a list of many.
        <br />
        <Link to="/take-in" className="press press-main mt-4">
          Take in applications
        </Link>
      </Empty>
    );
  }
  return <Rows {...query.data} />;
}

function Rows({ heading, subheading, rows, today }: { heading: string; subheading: string; rows: Parameters<typeof matches>[0][]; today: string }) {
  const [filter, setFilter] = useParam("q");
  const [sort, setSort] = useParam("sort", "margin");
  const [grouping, setGrouping] = useParam("group", "none");
  const [current, setCurrent] = useState(-1);
  const search = useRef<HTMLInputElement>(null);
  const list = useRef<HTMLDivElement>(null);
  const measure = useRef<HTMLDivElement>(null);
  const width = useWidth(measure, 760);
  const go = useNavigate();

  const shown = useMemo(() => sorted(rows.filter((row) => matches(row, filter)), sort as Sort), [rows, filter, sort]);
  const lines = useMemo(() => grouped(shown, grouping as Grouping), [shown, grouping]);
  const axis = useMemo(() => axisFor(rows, today), [rows, today]);
  const selection = useSelection(useMemo(() => shown.map((row) => row.slug), [shown]));
  const [top, setTop] = useState(0);
  const attach = useCallback((element: HTMLDivElement | null) => {
    list.current = element;
    if (element) setTop(element.offsetTop);
  }, []);
  const virtual = useWindowVirtualizer({ count: lines.length, estimateSize: (i) => (lines[i]?.kind === "head" ? 34 : ROW_HEIGHT + 1), overscan: 8, scrollMargin: top });

  const walk = (by: number) => {
    const next = Math.min(Math.max(current + by, 0), shown.length - 1);
    setCurrent(next);
    const slug = shown[next]?.slug;
    virtual.scrollToIndex(lines.findIndex((line) => line.kind === "row" && line.row.slug === slug), { align: "auto" });
  };
  const here = shown[current];
  useKeys({
    j: () => walk(1),
    k: () => walk(-1),
    Enter: () => here && document.activeElement === document.body && void go(`/applications/${here.slug}`),
    x: () => here && selection.toggle(here.slug, false),
    Escape: () => selection.clear(),
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });

  return (
    <div className="page">
      <LightPatterns />
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">{heading}</h1>
      <div className="mb-2 flex flex-wrap items-center justify-between gap-x-6 gap-y-1">
        <p className="quiet min-w-0 truncate">{subheading}</p>
        <div className="flex items-center gap-3">
          <Choice label="group" value={grouping} set={setGrouping} options={["none", "team", "destination", "owner"]} />
          <Choice label="order" value={sort} set={setSort} options={["margin", "name", "arrival", "clear"]} />
          <ScanAll />
          <FilterField field={search} label="Filter applications" value={filter} set={setFilter} width="w-52" />
        </div>
      </div>
      <div className={`sheet-free sticky top-0 z-10 grid ${COLUMNS} items-end border-b hair`} style={{ background: "var(--paper)" }}>
        <input type="checkbox" className="checkbox checkbox-xs mb-1.5 ml-1.5 border-[var(--line)]" aria-label="Select all shown" checked={selection.all} onChange={selection.toggleAll} />
        <span className="quiet pb-1 text-[12.5px]">{filter ? `${shown.length} of ${rows.length} applications` : "application"}</span>
        <div ref={measure}>
          <AxisHead axis={axis} width={width} today={today} />
        </div>
        <span className="quiet pr-3 pb-1 text-right text-[12.5px]">margin</span>
        <span className="quiet pr-1 pb-1 text-right text-[12.5px]">clear</span>
      </div>
      {lines.length === 0 && <p className="quiet py-8 text-center">No application matches “{filter}”.</p>}
      <div ref={attach} className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => {
          const line = lines[item.index];
          return (
            <div key={item.key} className="lifts absolute inset-x-0" style={{ transform: `translateY(${item.start - top}px)` }}>
              {line?.kind === "head" && (
                <h2 className="flex h-[34px] items-end border-b pb-1 font-semibold hair">
                  {line.title} <span className="quiet ml-2 font-normal">{line.count}</span>
                </h2>
              )}
              {line?.kind === "row" && (
                <HorizonRow row={line.row} axis={axis} width={width} today={today} selected={selection.has(line.row.slug)} current={line.row.slug === here?.slug} select={selection.toggle} />
              )}
            </div>
          );
        })}
      </div>
      {selection.slugs.length > 0 && <SelectionBar rows={rows.filter((row) => selection.has(row.slug))} clear={selection.clear} />}
    </div>
  );
}

function ScanAll() {
  const say = useToast();
  const client = useQueryClient();
  const scan = () =>
    post<JobsAsked>("/scans", {})
      .then((asked) => say(`${plural(asked.jobs.length, "application")} in the queue; what has not changed ends at once.`))
      .then(() => client.invalidateQueries({ queryKey: ["portfolio"] }))
      .catch((error: unknown) => say(error instanceof ApiError ? error.failure.problem : String(error), { bad: true }));
  return (
    <button type="button" className="press" title="Only what has changed since its last scan is scanned again" onClick={() => void scan()}>
      Scan all
    </button>
  );
}

function AxisHead({ axis, width, today }: { axis: ReturnType<typeof axisFor>; width: number; today: string }) {
  const now = place(axis, dateOf(today)) * width;
  return (
    <svg width={width} height={26} aria-hidden="true" className="block">
      {ticks(axis).map((tick) => (
        <g key={tick.at}>
          <path d={`M${place(axis, tick.at) * width} ${tick.major ? 4 : 18}V26`} stroke="var(--rule)" />
          {tick.label && (
            <text x={place(axis, tick.at) * width + 6} y={14} fontSize="13" fontWeight="700" fill="var(--ink)">
              {tick.label}
            </text>
          )}
        </g>
      ))}
      <text x={now} y={15} fontSize="12" fontWeight="700" textAnchor="middle" fill="var(--press)" stroke="var(--paper)" strokeWidth="4" paintOrder="stroke">
        today
      </text>
      <path d={`M${now} 19V26`} stroke="var(--press)" strokeWidth="1.6" />
    </svg>
  );
}

function Choice({ label, value, set, options }: { label: string; value: string; set: (value: string) => void; options: string[] }) {
  return (
    <label className="quiet flex items-center gap-1.5 text-[13.5px]">
      {label}
      <select className="cursor-pointer bg-transparent font-semibold text-[var(--ink)]" value={value} onChange={(e) => set(e.target.value)}>
        {options.map((option) => (
          <option key={option} className="bg-[var(--sheet)]">
            {option}
          </option>
        ))}
      </select>
    </label>
  );
}
