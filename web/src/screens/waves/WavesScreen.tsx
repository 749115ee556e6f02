/** Can all of it be done by these people before support ends? Teams and their weeks, stages with their spread, ends as walls. */
import { useQuery } from "@tanstack/react-query";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useMemo, useRef, useState } from "react";
import { Link } from "react-router";

import { API } from "../../api/address";
import { wavesQuery } from "../../api/queries";
import type { TeamWaves, WavesView } from "../../api/types";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { useWidth } from "../../lib/width";
import { LightPatterns } from "../horizon/LaneChart";
import { BridgeLanes } from "./BridgeLanes";
import { rowHeight, scaleOf } from "./geometry";
import { grouped } from "./groups";
import { StagePanel } from "./StagePanel";
import { TeamRow } from "./TeamRow";
import { WavesNav } from "./WavesNav";
import { WeeksHead } from "./WeeksHead";
import { WhatIfPanel } from "./WhatIfPanel";

const LABEL = 178;
const SPANS = [
  ["13", "3 months"],
  ["26", "6 months"],
  ["52", "1 year"],
  ["all", "all"],
] as const;

export default function WavesScreen() {
  const query = useQuery(wavesQuery);
  if (query.isPending) return <Waiting what="the plan" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (query.data.stages === 0 && query.data.unplanned.length === 0 && query.data.arrived === 0) {
    return (
      <Empty alone title="There is no path to put into weeks yet.">
        Add an application and scan it: its stages stand here as soon as it has a path.
        <br />
        <Link to="/take-in" className="press press-main mt-4">
          Add applications
        </Link>
      </Empty>
    );
  }
  return <Weeks view={query.data} />;
}

function Weeks({ view }: { view: WavesView }) {
  const [span, setSpan] = useParam("span", "26");
  const [group, setGroup] = useParam("group", "team");
  const [text, setText] = useParam("q");
  const [stage, setStage] = useParam("stage");
  const [whatIf, setWhatIf] = useParam("what-if");
  const [begins, setBegins] = useState<string | null>(null);
  const search = useRef<HTMLInputElement>(null);
  const measure = useRef<HTMLDivElement>(null);
  const width = Math.max(useWidth(measure, 1060), 320);
  const count = span === "all" ? view.weeks.length : Math.min(Number(span), view.weeks.length);
  const scale = useMemo(() => scaleOf(view.weeks, count, width), [view.weeks, count, width]);
  const rows = useMemo(() => grouped(view.teams, group, text, view.bridges), [view.teams, group, text, view.bridges]);
  const choose = useCallback(
    (key: string, day: string | null = null) => {
      setStage(key);
      setBegins(day);
    },
    [setStage],
  );
  useKeys({
    Escape: () => choose(""),
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  return (
    <div className="page">
      <LightPatterns />
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">{view.heading}</h1>
      <p className="quiet mb-2">{view.subheading}</p>
      <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
        <WavesNav />
        <span className="grow" />
        <Choice label="show" value={span} set={setSpan} options={SPANS} />
        <Choice label="group" value={group} set={setGroup} options={[["team", "team"], ["application", "application"], ["library", "library"]]} />
        <a className="press" href={`${API}/waves.ics`} download title="Stages and support ends as a calendar">
          Calendar
        </a>
        <button type="button" className="press" aria-pressed={whatIf !== ""} onClick={() => setWhatIf(whatIf === "" ? "new" : "")}>
          What if
        </button>
        <FilterField field={search} label="Filter stages" value={text} set={setText} width="w-44" />
      </div>
      <div className="sticky top-0 z-10 grid items-end border-b hair" style={{ gridTemplateColumns: `${LABEL}px 1fr`, background: "var(--paper)" }}>
        <span className="quiet pb-1 text-[12.5px]">{group === "team" ? "team, days a week" : group}</span>
        <div ref={measure}>
          <WeeksHead scale={scale} today={view.today} freezes={view.freezes} />
        </div>
      </div>
      {rows.length === 0 && <p className="quiet py-8 text-center">{text === "" ? "Nothing to show in these groups." : `No stage matches “${text}”.`}</p>}
      <Rows rows={rows} view={view} scale={scale} count={count} chosen={stage} moving={begins} choose={choose} strips={group === "team" && text === ""} />
      {group === "team" && text === "" && <BridgeLanes bridges={view.bridges} scale={scale} label={LABEL} />}
      <Words view={view} />
      {(stage !== "" || whatIf !== "") && <div aria-hidden="true" className="h-72" />}
      {stage !== "" && <StagePanel key={stage} view={view} stage={stage} begins={begins} setBegins={setBegins} close={() => choose("")} />}
      {stage === "" && whatIf !== "" && <WhatIfPanel key={whatIf} view={view} kept={whatIf} setKept={setWhatIf} />}
    </div>
  );
}

type RowsProps = {
  rows: TeamWaves[];
  view: WavesView;
  scale: ReturnType<typeof scaleOf>;
  count: number;
  chosen: string;
  moving: string | null;
  choose: (key: string, day?: string | null) => void;
  strips: boolean;
};

function Rows({ rows, view, scale, count, chosen, moving, choose, strips }: RowsProps) {
  const [top, setTop] = useState(0);
  const attach = useCallback((element: HTMLDivElement | null) => {
    if (element) setTop(element.offsetTop);
  }, []);
  const size = (team: TeamWaves) => rowHeight(team) - (strips ? 0 : 40);
  const virtual = useWindowVirtualizer({ count: rows.length, estimateSize: (i) => (rows[i] ? size(rows[i]) : 90), getItemKey: (i) => rows[i]?.name ?? i, overscan: 4, scrollMargin: top });
  return (
    <div ref={attach} className="relative" style={{ height: virtual.getTotalSize() }}>
      {virtual.getVirtualItems().map((item) => {
        const team = rows[item.index];
        return (
          team && (
            <div key={item.key} className="absolute inset-x-0" style={{ transform: `translateY(${item.start - top}px)` }}>
              <TeamRow team={team} view={view} scale={scale} count={count} label={LABEL} height={size(team)} chosen={chosen} moving={moving} choose={choose} strip={strips} />
            </div>
          )
        );
      })}
    </div>
  );
}

/** What the plan cannot do, and what is not in it. */
function Words({ view }: { view: WavesView }) {
  if (view.notes.length === 0 && view.unplanned.length === 0) return null;
  return (
    <section aria-label="What is not in the plan" className="mt-4 border-t pt-3 text-[14px] hair">
      <ul className="space-y-1">
        {view.notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
        {view.unplanned.slice(0, 20).map((one) => (
          <li key={one.slug}>
            <Link to={`/applications/${one.slug}`} className="font-semibold underline decoration-dotted underline-offset-4">
              {one.name}
            </Link>{" "}
            is not in the plan: {one.why}.
          </li>
        ))}
        {view.unplanned.length > 20 && <li className="quiet">{view.unplanned.length - 20} more are not in the plan.</li>}
      </ul>
    </section>
  );
}

function Choice({ label, value, set, options }: { label: string; value: string; set: (value: string) => void; options: readonly (readonly [string, string])[] }) {
  return (
    <label className="quiet flex items-center gap-1.5 text-[13.5px]">
      {label}
      <select className="cursor-pointer bg-transparent font-semibold text-[var(--ink)]" value={value} onChange={(e) => set(e.target.value)}>
        {options.map(([key, word]) => (
          <option key={key} value={key} className="bg-[var(--sheet)]">
            {word}
          </option>
        ))}
      </select>
    </label>
  );
}
