/** How sure are we? When each application arrives, which support ends it may miss, what drives the last day, what was learnt. */
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useRef } from "react";
import { Link } from "react-router";

import { forecastQuery } from "../../api/queries";
import type { ForecastView } from "../../api/types";
import { Empty, Failed, Waiting } from "../../components/States";
import { dateOf, day, effort, figure, plural, shortDay } from "../../lib/format";
import { useParam } from "../../lib/params";
import { useWidth } from "../../lib/width";
import { FilterField } from "../../components/FilterField";
import { type Ahead, burn, type Past } from "./burn";
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
        {headline(view)}
      </h1>
      <p className="quiet mb-2">
        {figure(view.runs)} runs in {view.seconds.toFixed(2)} s over {plural(whole.stages, "stage")} and {effort(whole.days)} of work.{" "}
        {view.steps_learnt === 0 ? "Nothing was learnt yet: say at closed steps how long they took." : `After ${plural(view.steps_learnt, "closed step")} it takes ${view.factor.toFixed(2)} times what was estimated.`}
        {whole.never > 0 && ` Of ${plural(whole.never, "application")} nobody can say when.`}
        {view.unplanned.length > 0 && ` ${plural(view.unplanned.length, "application is", "applications are")} not in it: they have no path.`}
        {view.kept.count > 0 && ` Of ${plural(view.kept.count, "stage")} done since they were forecast, ${view.kept.within80} were done by their 80 % date.`}
      </p>
      <div className="mb-3 flex items-center gap-4">
        <WavesNav />
        <span className="grow" />
        <FilterField field={field} label="Filter applications" value={text} set={setText} />
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)_400px] items-start gap-8">
        <Applications view={view} rows={rows} unplanned={view.unplanned.filter((a) => a.name.toLowerCase().includes(text.toLowerCase()))} />
        <div className="space-y-6">
          <WorkLeft view={view} />
          <Arrivals view={view} />
          <Drivers view={view} />
          <Lessons view={view} />
        </div>
      </div>
    </div>
  );
}

function headline({ applications, portfolio: { p50, p80, never } }: ForecastView): string {
  const known = applications.length - never;
  if (!p50 || known === 0) return never === 1 ? "Nobody can say when the application arrives." : `Nobody can say when the ${never} applications arrive.`;
  const by = `by ${day(p50)} with 50 %, by ${day(p80)} with 80 %`;
  if (never === 0) return known === 1 ? `The application arrives ${by}.` : `All ${known} applications arrive ${by}.`;
  return `${known} of ${applications.length} applications arrive ${by}.`;
}

function Applications({ view, rows, unplanned }: { view: ForecastView; rows: ForecastView["applications"]; unplanned: ForecastView["unplanned"] }) {
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
          <th className="font-normal">chance to miss a support end ahead</th>
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
                {a.p50 ? shortDay(a.p50) : ""}
              </td>
              <td className="pr-3 text-right whitespace-nowrap" title={`80 %: ${day(a.p80)}; 95 %: ${day(a.p95)}`}>
                {a.promised && a.p80 ? <span className="quiet">as promised</span> : a.p80 ? shortDay(a.p80) : <span className="quiet">not known</span>}
              </td>
              <td className="truncate" title={worst ? `${worst.name} ${worst.line} ends ${day(worst.end)}, missed with ${chance(worst.chance)}` : undefined}>
                {worst ? (
                  <>
                    {worst.name} {worst.line}: <span className={worst.chance >= 0.2 ? "font-semibold text-[var(--rose-text)]" : ""}>{chance(worst.chance)}</span>
                  </>
                ) : (
                  <span className="quiet">{a.misses.length > 0 ? "unsupported already" : "none known"}</span>
                )}
              </td>
            </tr>
          );
        })}
        {unplanned.map((a) => (
          <tr key={a.slug} className="border-b hair">
            <td className="truncate py-1.5 pr-3">
              <Link to={`/applications/${a.slug}`} className="font-semibold hover:underline" title={a.name}>
                {a.name}
              </Link>
            </td>
            <td className="pr-4">
              <span aria-hidden="true" className="block border-t-2 border-dotted" style={{ borderColor: "var(--ink2)" }} />
            </td>
            <td colSpan={2} className="quiet pr-3 text-right">
              not known
            </td>
            <td className="quiet truncate" title={a.why}>
              {a.why}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Span({ p50, p80, p95 }: { p50: number | null; p80: number | null; p95: number | null }) {
  if (p50 === null) return <span aria-hidden="true" className="block border-t-2 border-dotted" style={{ borderColor: "var(--ink2)" }} />;
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

function WorkLeft({ view }: { view: ForecastView }) {
  const each = view.portfolio.days / Math.max(view.applications.length, 1);
  const unknown = view.unplanned.length * each;
  return (
    <BurnChart
      title="Days of work left"
      said={`From ${effort(view.portfolio.days)} today to none`}
      past={view.so_far.map((week) => ({ made: week.made, value: week.days_left }))}
      ahead={view.cone}
      unknown={unknown}
      mark={effort(view.portfolio.days)}
    >
      The line is the middle of the runs, the band holds eight of ten.
      {unknown > 0 && ` Dotted: if each of the ${view.unplanned.length} without a path took as much as the others do.`}
    </BurnChart>
  );
}

function Arrivals({ view }: { view: ForecastView }) {
  const now = view.so_far.at(-1);
  if (!now) return null;
  const unknown = view.unplanned.length + view.applications.filter((a) => a.p50 === null).length;
  return (
    <BurnChart
      title="Applications that have arrived"
      said={`${now.arrived} of ${now.applications} have arrived`}
      past={view.so_far.map((week) => ({ made: week.made, value: week.arrived }))}
      ahead={view.arrivals}
      most={now.applications}
      scope={view.so_far.map((week) => ({ made: week.made, value: week.applications }))}
      scopeKnown={unknown === 0}
      mark={`${now.arrived} of ${now.applications}`}
    >
      {unknown > 0 ? `Of ${plural(unknown, "application")} nobody can say when: the line above is dotted.` : "The line above is all of them."}
    </BurnChart>
  );
}

type BurnProps = { title: string; said: string; past: Past[]; ahead: Ahead[]; most?: number; unknown?: number; scope?: Past[]; scopeKnown?: boolean; mark: string; children: ReactNode };

const HIGH = 110;

function BurnChart({ title, said, past, ahead, most, unknown, scope, scopeKnown, mark, children }: BurnProps) {
  const ref = useRef<HTMLDivElement>(null);
  const width = useWidth(ref, 400);
  const made = burn(past, ahead, width, HIGH, most, unknown);
  const grows = (ahead.at(-1)?.middle ?? 0) > (past.at(-1)?.value ?? 0);
  return (
    <section aria-label={title} ref={ref}>
      <h2 className="mb-1 text-[15.5px] font-bold">{title}</h2>
      <svg width={width} height={HIGH + 22} role="img" aria-label={said} className="block">
        <path d={made.area} fill="var(--amber)" opacity="0.4" />
        {made.today.x > 0 && <path d={`M${made.today.x} 0V${HIGH}`} stroke="var(--press)" strokeWidth="1.5" />}
        {scope && <path d={`M0 ${made.y(scope.at(-1)?.value ?? 0)}H${width}`} stroke="var(--ink2)" strokeDasharray={scopeKnown ? undefined : "1.5 4"} strokeWidth={scopeKnown ? 1 : 2} strokeLinecap="round" />}
        <path d={made.past} fill="none" stroke="var(--ink)" strokeWidth="1.8" />
        <path d={made.middle} fill="none" stroke="var(--ink)" strokeWidth="1.8" strokeOpacity={past.length > 1 ? 0.65 : 1} />
        <path d={made.dotted} fill="none" stroke="var(--ink2)" strokeWidth="2" strokeDasharray="1.5 4" strokeLinecap="round" />
        <path d={`M0 ${HIGH + 0.5}H${width}`} stroke="var(--ink)" />
        {made.labels.map((label) => (
          <text key={label.text} x={label.x} y={HIGH + 16} fontSize="12" textAnchor={label.anchor} fill={label.text === "today" ? "var(--press)" : "var(--ink2)"}>
            {label.text}
          </text>
        ))}
        <text x={made.today.x + 6} y={Math.min(made.today.y + (grows ? 14 : 12), HIGH - 4)} fontSize="12" fill="var(--ink)" fontWeight="600" stroke="var(--paper)" strokeWidth="3" paintOrder="stroke">
          {mark}
        </text>
      </svg>
      <p className="quiet text-[12.5px]">{children}</p>
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
