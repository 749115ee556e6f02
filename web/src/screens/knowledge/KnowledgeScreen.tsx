/** What Yoake knows: lines and their dates on one time axis, how each was read, and the weights behind the figures. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { effortQuery, knowledgeQuery } from "../../api/queries";
import type { CoordinateInfo, EffortTable } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { DAY, dateOf, day, plural } from "../../lib/format";

export default function KnowledgeScreen() {
  const query = useQuery(knowledgeQuery);
  const table = useQuery(effortQuery).data;
  const [now] = useState(() => Date.now());
  if (query.isPending) return <Waiting what="what is known" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const lines = query.data.reduce((n, c) => n + c.lines.filter((l) => l.captured).length, 0);
  return (
    <div className="page max-w-6xl">
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">
        {plural(query.data.length, "coordinate")} known, {plural(lines, "line")} captured from the artefacts themselves.
      </h1>
      <p className="quiet mb-4">
        Another PyPI library is made known with <code>yoake knowledge build pypi/NAME</code>. Files in your own knowledge folder win over those that ship.
      </p>
      {query.data.map((coordinate) => (
        <Coordinate key={coordinate.coordinate} coordinate={coordinate} now={now} />
      ))}
      {table && <Efforts table={table} />}
    </div>
  );
}

const START = dateOf("2017-01-01");

function Coordinate({ coordinate, now }: { coordinate: CoordinateInfo; now: number }) {
  const end = now + 5.2 * 365 * DAY;
  const share = (at: number) => `${(100 * Math.min(Math.max((at - START) / (end - START), 0), 1)).toFixed(2)}%`;
  return (
    <section aria-label={coordinate.name} className="mb-8">
      <h2 className="text-[18px] font-bold">
        {coordinate.name} <code className="quiet font-normal">{coordinate.short}</code>
      </h2>
      <p className="quiet mb-2 text-[13.5px]">
        {plural(coordinate.symbols, "symbol")}, {plural(coordinate.rules, "rule")}
        {coordinate.source && ` · dates: ${coordinate.source}${coordinate.recalled ? ", recalled and not verified" : ""}, as of ${day(coordinate.as_of)}`}
      </p>
      <ul className="relative text-[13.5px]">
        {coordinate.lines.map((line) => {
          const [from, to] = [line.released ? dateOf(line.released) : START, line.support_ends ? dateOf(line.support_ends) : null];
          return (
            <li key={line.line} className="grid grid-cols-[56px_90px_minmax(0,1fr)_210px_230px] items-center gap-3 border-b py-0.5 hair">
              <b>{line.line}</b>
              <span className="quiet">{line.kind}</span>
              <span className="relative h-3">
                {to !== null && (
                  <span
                    className="absolute inset-y-0"
                    style={{
                      left: share(from),
                      width: `calc(${share(to)} - ${share(from)})`,
                      background: to < now ? "repeating-linear-gradient(135deg, var(--night) 0 4px, var(--night-stripe) 4px 6px)" : "var(--day)",
                      outline: to < now ? "none" : "1px solid var(--line)",
                    }}
                  />
                )}
                <span className="absolute -inset-y-1 w-[1.5px]" style={{ left: share(now), background: "var(--press)" }} />
              </span>
              <span>
                {to === null ? <span className="quiet">end not known</span> : to < now ? `unsupported since ${day(line.support_ends)}` : `until ${day(line.support_ends)}`}
              </span>
              <span className="quiet truncate" title={line.runs_on.length ? `states support for Python ${line.runs_on.join(", ")}` : ""}>
                {line.captured ? `captured: ${line.release}, ${line.how}` : "not captured"}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Efforts({ table }: { table: EffortTable }) {
  return (
    <section aria-label="Weights and efforts">
      <h2 className="text-[18px] font-bold">Weights and efforts</h2>
      <p className="quiet mb-2 text-[13.5px]">
        {table.source}. A day has {table.minutes_per_day} minutes of work; capacity {table.days_per_week} days a week unless set on the application; a stage costs {table.stage_base_days} d
        before its edits, κ = {table.kappa}.
      </p>
      <div className="grid grid-cols-2 gap-10 text-[14px]">
        <Pairs title="weight of a check, minutes" pairs={Object.entries(table.weights).map(([name, value]) => [name.replace("_", " "), String(value)])} />
        <Pairs title="first place of a finding, minutes: low, likely, high" pairs={Object.entries(table.kinds).map(([name, value]) => [name, value.join(", ")])} />
      </div>
    </section>
  );
}

function Pairs({ title, pairs }: { title: string; pairs: [string, string][] }) {
  return (
    <div>
      <h3 className="quiet mb-1 text-[13px]">{title}</h3>
      <dl>
        {pairs.map(([name, value]) => (
          <div key={name} className="flex justify-between border-b py-0.5 hair">
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
