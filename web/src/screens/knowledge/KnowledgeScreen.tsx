/** What Yoake knows: lines and their dates on one time axis, how each was read, and the weights behind the figures. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { post } from "../../api/client";
import { effortQuery, knowledgeQuery } from "../../api/queries";
import type { CoordinateInfo, EffortTable } from "../../api/types";
import { FilterField } from "../../components/FilterField";
import { Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { DAY, dateOf, day, plural } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";

export default function KnowledgeScreen() {
  const query = useQuery(knowledgeQuery);
  const table = useQuery(effortQuery).data;
  const [now] = useState(() => Date.now());
  const [text, setText] = useParam("q");
  const [chosen, choose] = useParam("of");
  const search = useRef<HTMLInputElement>(null);
  useKeys({
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  if (query.isPending) return <Waiting what="what is known" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const lines = query.data.reduce((n, c) => n + c.lines.filter((l) => l.captured).length, 0);
  const shown = query.data.filter((c) => c.short.toLowerCase().includes(text.toLowerCase()));
  const coordinate = query.data.find((c) => c.short === chosen) ?? shown[0];
  return (
    <div className="flex h-[calc(100vh-48px)] min-h-[480px] flex-col">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-1 border-b px-[22px] py-2 hair">
        <h1 className="text-[21px] font-bold tracking-tight">
          {plural(query.data.length, "coordinate")} known, {plural(lines, "line")} captured from the artefacts themselves.
        </h1>
        <span className="grow" />
        <MakeKnown />
      </div>
      <div className="grid min-h-0 grow grid-cols-[minmax(220px,300px)_minmax(0,1fr)]">
        <div className="flex min-h-0 flex-col border-r hair">
          <div className="p-2 pl-[22px]">
            <FilterField field={search} label="Filter coordinates" value={text} set={setText} width="w-full" />
          </div>
          <ul className="min-h-0 grow overflow-auto" tabIndex={0} aria-label="Coordinates">
            {shown.map((c) => (
              <li key={c.coordinate}>
                <button
                  type="button"
                  aria-current={c === coordinate}
                  className={`flex w-full items-baseline justify-between gap-3 border-b py-1 pr-3 pl-[22px] text-left text-[13.5px] hair ${c === coordinate ? "sheet font-semibold" : "hover:bg-[var(--hover)]"}`}
                  onClick={() => choose(c.short)}
                >
                  <code className="min-w-0 truncate">{c.short}</code>
                  <span className="quiet shrink-0">
                    {c.lines[0]?.line} – {c.lines.at(-1)?.line}
                  </span>
                </button>
              </li>
            ))}
            {shown.length === 0 && <li className="quiet px-[22px] py-2 text-[13.5px]">Nothing here is called that. Make it known above.</li>}
          </ul>
        </div>
        <div className="min-h-0 overflow-auto p-[22px]" tabIndex={0} role="region" aria-label="Lines">
          {coordinate && <Coordinate coordinate={coordinate} now={now} />}
          {table && <Efforts table={table} />}
        </div>
      </div>
    </div>
  );
}

function MakeKnown() {
  const [name, setName] = useState("");
  const toast = useToast();
  const ask = useMutation({
    mutationFn: () => post<{ job: number }>("/knowledge", { coordinate: name.trim() }),
    onSuccess: () => {
      toast(`${name.trim()} is being read, every line of it. What uses it is scanned again afterwards.`);
      setName("");
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) ask.mutate();
      }}
    >
      <input aria-label="Library to make known" placeholder="pypi/NAME or npm/NAME" className="field w-52" value={name} onChange={(e) => setName(e.target.value)} />
      <button type="submit" className="press" disabled={!name.trim() || ask.isPending}>
        Make it known
      </button>
    </form>
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
