/** How sure are we? When each application arrives, which support ends it may miss, what drives the last day, what was learnt. */
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { Link } from "react-router";

import { forecastQuery } from "../../api/queries";
import type { ForecastView } from "../../api/types";
import { Empty, Failed, Waiting } from "../../components/States";
import { dateOf, day, effort, figure, plural, shortDay } from "../../lib/format";
import { useParam } from "../../lib/params";
import { useWidth } from "../../lib/width";
import { FilterField } from "../../components/FilterField";
import { cone } from "./cone";
import { onScale } from "./changes";
import { WavesNav } from "./WavesNav";
import { chance } from "./words";

export default function ForecastScreen() {
  const query = useQuery(forecastQuery);
  if (query.isPending) return <Waiting what="the forecast" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (query.data.applications.length === 0) return <Empty alone title="Nothing is left to forecast.">An application stands here while it has stages before it.</Empty>;
  return <Forecast view={query.data} />;
}

function Forecast({ view }: { view: ForecastView }) {
  const [text, setText] = useParam("q");
  const field = useRef<HTMLInputElement>(null);
  const whole = view.portfolio;
  const rows = view.applications.filter((a) => `${a.name} ${a.team}`.toLowerCase().includes(text.toLowerCase()));
  return (
    <div className="page">
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">
        {whole.p50 ? `All ${plural(view.applications.length, "application")} arrive by ${day(whole.p50)} with 50 %, by ${day(whole.p80)} with 80 %.` : "Not every application arrives."}
      </h1>
      <p className="quiet mb-2">
        {figure(view.runs)} runs in {view.seconds.toFixed(2)} s over {plural(whole.stages, "stage")} and {effort(whole.days)} of work.{" "}
        {view.steps_learnt === 0 ? "Nothing was learnt yet: say at closed steps how long they took." : `After ${plural(view.steps_learnt, "closed step")} it takes ${view.factor.toFixed(2)} times what was estimated.`}
        {view.unplanned.length > 0 && ` ${plural(view.unplanned.length, "application is", "applications are")} not in it: they have no path.`}
        {view.kept.count > 0 && ` Of ${plural(view.kept.count, "stage")} done since they were forecast, ${view.kept.within80} were done by their 80 % date.`}
      </p>
      <div className="mb-3 flex items-center gap-4">
        <WavesNav />
        <span className="grow" />
        <FilterField field={field} label="Filter applications" value={text} set={setText} />
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)_400px] items-start gap-8">
        <Applications view={view} rows={rows} />
        <div className="space-y-6">
          <WorkLeftCone view={view} />
          <Drivers view={view} />
          <Lessons view={view} />
        </div>
      </div>
    </div>
  );
}

function Applications({ view, rows }: { view: ForecastView; rows: ForecastView["applications"] }) {
  const at = onScale(view.today, view.applications.flatMap((a) => [a.p50, a.p95]));
  return (
    <table className="w-full table-fixed text-[14px]">
      <colgroup>
        <col className="w-[170px]" />
        <col />
        <col className="w-[92px]" />
        <col className="w-[92px]" />
        <col className="w-[210px]" />
      </colgroup>
      <thead>
        <tr className="quiet border-b text-left text-[12.5px] hair">
          <th className="py-1 font-normal">application</th>
          <th className="font-normal">today to the last 95 % date</th>
          <th className="pr-3 text-right font-normal">50 %</th>
          <th className="pr-3 text-right font-normal">80 %</th>
          <th className="font-normal">worst support end ahead</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((a) => {
          const ahead = a.misses.filter((m) => dateOf(m.end) >= dateOf(view.today));
          const worst = ahead.reduce<(typeof ahead)[number] | null>((w, m) => (w === null || m.chance > w.chance ? m : w), null);
          return (
            <tr key={a.slug} className="border-b hair">
              <td className="truncate py-1.5 pr-3">
                <Link to={`/applications/${a.slug}/path`} className="font-semibold hover:underline" title={a.name}>
                  {a.name}
                </Link>{" "}
                <span className="quiet text-[12.5px]">{a.team}</span>
              </td>
              <td className="pr-4">
                <Span p50={at(a.p50)} p80={at(a.p80)} p95={at(a.p95)} />
              </td>
              <td className="pr-3 text-right whitespace-nowrap" title={day(a.p50)}>
                {a.p50 ? shortDay(a.p50) : "never"}
              </td>
              <td className="pr-3 text-right whitespace-nowrap" title={`80 %: ${day(a.p80)}; 95 %: ${day(a.p95)}`}>
                {a.promised ? <span className="quiet">as promised</span> : a.p80 ? shortDay(a.p80) : "never"}
              </td>
              <td className="truncate" title={worst ? `${worst.name} ${worst.line} ends ${day(worst.end)}, missed with ${chance(worst.chance)}` : undefined}>
                {worst ? (
                  <>
                    {worst.name} {worst.line}: <span className={worst.chance >= 0.2 ? "font-semibold text-[var(--rose-text)]" : ""}>missed with {chance(worst.chance)}</span>
                  </>
                ) : (
                  <span className="quiet">{a.misses.length > 0 ? "unsupported already" : "none known"}</span>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Span({ p50, p80, p95 }: { p50: number | null; p80: number | null; p95: number | null }) {
  if (p50 === null) return <span className="quiet">not known</span>;
  const part = (x: number) => `${Math.min(x, 1) * 100}%`;
  return (
    <span aria-hidden="true" className="relative block h-[14px]">
      <span className="absolute top-[6px] left-0 h-[2px]" style={{ width: part(p50), background: "var(--rule)" }} />
      <span className="absolute top-[3px] h-[8px]" style={{ left: part(p50), width: part((p80 ?? 1) - p50), background: "var(--amber)" }} />
      <span className="absolute top-[3px] h-[8px]" style={{ left: part(p80 ?? 1), width: part((p95 ?? 1) - (p80 ?? 1)), background: "var(--amber)", opacity: 0.4 }} />
      <span className="absolute top-[2px] h-[10px] w-[10px] -translate-x-1/2 rounded-full border" style={{ left: part(p50), background: "var(--amber)", borderColor: "var(--ink)" }} />
    </span>
  );
}

function WorkLeftCone({ view }: { view: ForecastView }) {
  const ref = useRef<HTMLDivElement>(null);
  const width = useWidth(ref, 400);
  const made = cone(view.cone, width, 120);
  return (
    <section aria-label="Work left over time" ref={ref}>
      <h2 className="mb-1 text-[15.5px] font-bold">Days of work left, week by week</h2>
      <svg width={width} height={142} role="img" aria-label={`From ${effort(view.portfolio.days)} today to none`} className="block">
        <path d={made.area} fill="var(--amber)" opacity="0.4" />
        <path d={made.middle} fill="none" stroke="var(--ink)" strokeWidth="1.8" />
        <path d={`M0 120.5H${width}`} stroke="var(--ink)" />
        {made.labels.map((label) => (
          <text key={label.x} x={label.x} y={136} fontSize="12" textAnchor={label.anchor} fill="var(--ink2)">
            {label.text}
          </text>
        ))}
        <text x={4} y={12} fontSize="12" fill="var(--ink2)">
          {effort(view.cone[0]?.middle ?? 0)}
        </text>
      </svg>
      <p className="quiet text-[12.5px]">The line is the middle of the runs, the band holds eight of ten.</p>
    </section>
  );
}

function Drivers({ view }: { view: ForecastView }) {
  if (view.drivers.length === 0) return null;
  return (
    <section aria-label="What drives the last day">
      <h2 className="mb-1 text-[15.5px] font-bold">What drives the last day</h2>
      <ul className="text-[14px]">
        {view.drivers.map((driver) => (
          <li key={driver.key} className="grid grid-cols-[1fr_90px_44px] items-center gap-2 py-0.5">
            <Link to={`/waves?stage=${encodeURIComponent(driver.key)}`} className="truncate hover:underline" title={`${driver.title}, ${driver.team}`}>
              {driver.name} {driver.number || ""} <span className="quiet text-[12.5px]">{driver.team}</span>
            </Link>
            <span aria-hidden="true" className="h-[8px]" style={{ width: `${Math.max(driver.share * 100, 1)}%`, background: "var(--dusk)" }} />
            <span className="text-right">{Math.round(driver.share * 100)} %</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Lessons({ view }: { view: ForecastView }) {
  if (view.lessons.length === 0) return null;
  return (
    <section aria-label="What was learnt">
      <h2 className="mb-1 text-[15.5px] font-bold">What closed steps took against the estimate</h2>
      <table className="w-full text-[14px]">
        <thead>
          <tr className="quiet text-left text-[12.5px]">
            <th className="font-normal">group</th>
            <th className="text-right font-normal">steps</th>
            <th className="text-right font-normal">took</th>
            <th className="text-right font-normal">drawn to the whole</th>
          </tr>
        </thead>
        <tbody>
          {view.lessons.map((lesson) => (
            <tr key={lesson.group + lesson.name} title={`Eight of ten: ${lesson.low.toFixed(2)} to ${lesson.high.toFixed(2)} times`}>
              <td>
                {lesson.name} <span className="quiet text-[12.5px]">{lesson.group}</span>
              </td>
              <td className="text-right">{lesson.steps}</td>
              <td className="text-right">× {lesson.own.toFixed(2)}</td>
              <td className={`text-right ${lesson.group === "team" ? "font-semibold" : ""}`}>× {lesson.factor.toFixed(2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet text-[12.5px]">The forecast takes the factor of each team, and that of the whole for a team without steps; kinds and languages are only shown.</p>
    </section>
  );
}
