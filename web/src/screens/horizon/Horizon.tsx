/** Who is in the dark, and when? Every application on one time axis, worst margin first. */
import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { type HorizonFilter, portfolioQuery } from "../../api/queries";
import type { HorizonWindow, JobsAsked, Row } from "../../api/types";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useScans } from "../../components/useScans";
import { axisFor, place, ticks } from "../../lib/axis";
import { dateOf, plural } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { usePages } from "../../lib/pages";
import { useParam } from "../../lib/params";
import { lineAt, lineCount, lineOf } from "../../lib/sections";
import { useWidth } from "../../lib/width";
import { COLUMNS, HorizonRow } from "./HorizonRow";
import { LightPatterns, ROW_HEIGHT } from "./LaneChart";
import { newest } from "./changes";
import { SelectionBar } from "./SelectionBar";
import { useSelection } from "./selection";

export default function Horizon() {
  const [q] = useParam("q");
  const [order] = useParam("sort", "margin");
  const [group] = useParam("group", "none");
  const filter = useMemo(() => ({ q, order, group }), [q, order, group]);
  const query = useQuery(portfolioQuery(filter));
  if (query.isPending) return <Waiting what="the portfolio" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (query.data.held === 0) {
    return (
      <Empty alone title="No applications yet.">
        Add a folder, a git repository, an archive, or a list of many.
        <br />
        <Link to="/take-in" className="press press-main mt-4">
          Add applications
        </Link>
      </Empty>
    );
  }
  return <Rows view={query.data} filter={filter} />;
}

function Rows({ view, filter }: { view: HorizonWindow; filter: HorizonFilter }) {
  const { today, entries, groups, total } = view;
  const [, setText] = useParam("q");
  const [, setOrder] = useParam("sort", "margin");
  const [, setGroup] = useParam("group", "none");
  const [current, setCurrent] = useState(-1);
  const search = useRef<HTMLInputElement>(null);
  const list = useRef<HTMLDivElement>(null);
  const measure = useRef<HTMLDivElement>(null);
  const width = useWidth(measure, 760);
  const go = useNavigate();
  const client = useQueryClient();

  const sections = useMemo(() => groups.map((held) => held.count), [groups]);
  const axis = useMemo(() => axisFor(view.last_arrival, today), [view.last_arrival, today]);
  const selection = useSelection(useMemo(() => entries.map((entry) => entry.slug), [entries]));
  const [top, setTop] = useState(0);
  const attach = useCallback((element: HTMLDivElement | null) => {
    list.current = element;
    if (element) setTop(element.offsetTop);
  }, []);
  const virtual = useWindowVirtualizer({ count: lineCount(sections, total), estimateSize: (at) => (lineAt(sections, at)?.kind === "head" ? 34 : ROW_HEIGHT + 1), overscan: 8, scrollMargin: top });
  const items = virtual.getVirtualItems();
  const indices = items.map((item) => lineAt(sections, item.index)).flatMap((line) => (line?.kind === "row" ? [line.index] : []));
  const rowAt = usePages(indices[0] ?? 0, indices.at(-1) ?? 0, (page) => portfolioQuery(filter, page));

  const walk = (by: number) => {
    const next = Math.min(Math.max(current + by, 0), total - 1);
    setCurrent(next);
    virtual.scrollToIndex(lineOf(sections, next), { align: "auto" });
  };
  const here = entries[current];
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
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">{view.heading}</h1>
      <div className="mb-2 flex flex-wrap items-center justify-between gap-x-6 gap-y-1">
        <p className="quiet min-w-0 truncate">{view.subheading}</p>
        <div className="flex items-center gap-3">
          <Choice label="group" value={filter.group} set={setGroup} options={["none", "team", "destination", "owner"]} />
          <Choice label="order" value={filter.order} set={setOrder} options={["margin", "name", "arrival", "clear"]} />
          <ScanAll />
          <FilterField field={search} label="Filter applications" value={filter.q} set={setText} width="w-52" />
        </div>
      </div>
      <div className={`sheet-free sticky top-0 z-10 grid ${COLUMNS} items-end border-b hair`} style={{ background: "var(--paper)" }}>
        <input type="checkbox" className="checkbox checkbox-xs mb-1.5 ml-1.5 border-[var(--line)]" aria-label="Select all shown" checked={selection.all} onChange={selection.toggleAll} />
        <span className="quiet pb-1 text-[12.5px]">{filter.q ? `${total} of ${view.held} applications` : "application"}</span>
        <div ref={measure}>
          <AxisHead axis={axis} width={width} today={today} />
        </div>
        <span className="quiet pr-3 pb-1 text-right text-[12.5px]">margin</span>
        <span className="quiet pr-1 pb-1 text-right text-[12.5px]">holds</span>
      </div>
      {total === 0 && <p className="quiet py-8 text-center">No application matches “{filter.q}”.</p>}
      <div ref={attach} className="relative" style={{ height: virtual.getTotalSize() }}>
        {items.map((item) => {
          const line = lineAt(sections, item.index);
          const group = line?.kind === "head" ? groups[line.section] : undefined;
          const row = line?.kind === "row" ? rowAt(line.index) : undefined;
          return (
            <div key={item.key} className="lifts absolute inset-x-0" style={{ transform: `translateY(${item.start - top}px)` }}>
              {group && (
                <h2 className="flex h-[34px] items-end border-b pb-1 font-semibold hair">
                  {group.title} <span className="quiet ml-2 font-normal">{group.count}</span>
                </h2>
              )}
              {row && <HorizonRow row={row} axis={axis} width={width} today={today} selected={selection.has(row.slug)} current={row.slug === here?.slug} select={selection.toggle} />}
            </div>
          );
        })}
      </div>
      {selection.slugs.length > 0 && <SelectionBar slugs={selection.slugs} seen={seenRows(client)} clear={selection.clear} />}
    </div>
  );
}

/** The rows that were loaded, each as it was last seen: what a change is begun on. */
function seenRows(client: QueryClient): Row[] {
  const loaded = client.getQueriesData<HorizonWindow>({ queryKey: ["portfolio"] }).flatMap(([, window]) => window?.rows ?? []);
  return newest(loaded);
}

function ScanAll() {
  const { scan } = useScans();
  const text = (asked: JobsAsked) => `${plural(asked.jobs.length, "application")} in the queue; what has not changed ends at once.`;
  return (
    <button type="button" className="press" title="Only what has changed since its last scan is scanned again" onClick={() => scan({ applications: [], text })}>
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
