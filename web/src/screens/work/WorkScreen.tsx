/** The next steps, for me and for everyone, with what is missing to close each. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useCallback, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";

import { evidenceQuery, PAGE, type StepFilter, stepQuery, workQuery } from "../../api/queries";
import type { Step, WorkView } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { day, figure, minutes, plural, shortDay } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { usePages } from "../../lib/pages";
import { useParam } from "../../lib/params";
import { who } from "../../lib/who";
import { StepEditor } from "./StepEditor";

const ROW = 50;

export default function WorkScreen() {
  const slug = useParams().slug ?? null;
  const filter = useStepFilter(slug);
  const query = useQuery(workQuery(filter));
  const evidence = useQuery({ ...evidenceQuery(slug ?? ""), enabled: slug !== null });
  if (query.isPending || (slug !== null && evidence.isPending)) return <Waiting what="the work" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (evidence.isError) return <Failed error={evidence.error} />;
  const heading = sentence(query.data);
  return (
    <div className="flex h-[calc(100vh-48px)] min-h-[480px] flex-col">
      {slug !== null && evidence.data ? (
        <AppHeader row={evidence.data.application} heading={heading} emphasis="" />
      ) : (
        <h1 className="px-[22px] pt-3 pb-2 text-[25px] font-bold tracking-tight">{heading}</h1>
      )}
      {query.data.open + query.data.closed === 0 && filter.q === "" ? (
        <Empty title="There is no work yet.">
          Steps come from scans: each stands for something that blocks an application. <Link className="underline" to="/take-in">Add applications</Link>.
        </Empty>
      ) : (
        <Steps filter={filter} view={query.data} />
      )}
    </div>
  );
}

/** What the address says of the list. */
function useStepFilter(slug: string | null): StepFilter {
  const [whose] = useParam("whose", "everyone");
  const [state] = useParam("state", "open");
  const [q] = useParam("q");
  return useMemo(() => ({ slug, whose, state, q }), [slug, whose, state, q]);
}

function sentence({ open, closed, late, again }: WorkView): string {
  const parts = [`${plural(open, "step")} to do, ${figure(closed)} closed`];
  if (late) parts.push(`${figure(late)} past ${late === 1 ? "its" : "their"} date`);
  if (again) parts.push(`${figure(again)} found again`);
  return `${parts.join("; ")}.`;
}

function Steps({ filter, view }: { filter: StepFilter; view: WorkView }) {
  const [, setWhose] = useParam("whose", "everyone");
  const [, setState] = useParam("state", "open");
  const [, setText] = useParam("q");
  const [chosen, setChosen] = useParam("step");
  const search = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const client = useQueryClient();
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made for being read while rendering
  const virtual = useVirtualizer({ count: view.total, estimateSize: () => ROW, overscan: 8, useFlushSync: false, getScrollElement: () => scroller.current });
  const items = virtual.getVirtualItems();
  const row = usePages(items[0]?.index ?? 0, items.at(-1)?.index ?? 0, (page) => workQuery(filter, page));
  const [at, setAt] = useState(0);
  const linked = useQuery({ ...stepQuery(chosen), enabled: chosen !== "" });
  const current = chosen === "" ? view.rows[0] : linked.data;
  const open = useCallback(
    (index: number, step: Step) => {
      setAt(index);
      setChosen(String(step.id));
    },
    [setChosen],
  );
  const walk = async (by: number) => {
    const next = Math.min(Math.max(at + by, 0), view.total - 1);
    const page: WorkView = await client.ensureQueryData(workQuery(filter, Math.floor(next / PAGE)));
    const step = page.rows[next - page.offset];
    if (!step) return;
    setAt(next);
    setChosen(String(step.id));
    virtual.scrollToIndex(next, { align: "auto" });
  };
  useKeys({
    j: () => void walk(1),
    k: () => void walk(-1),
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  return (
    <>
      <div className="flex items-center gap-5 border-b px-[22px] py-1.5 text-[13.5px] hair">
        <Pick label="whose" value={filter.whose} set={setWhose} options={["everyone", "me", "nobody"]} />
        <Pick label="state" value={filter.state} set={setState} options={["open", "closed", "waived", "all"]} />
        {filter.whose === "me" && !who() && <span className="quiet">Choose your name in the top bar.</span>}
        <span className="grow" />
        {view.more && <span className="quiet">the first {figure(view.total)} of more</span>}
        <FilterField field={search} label="Filter steps" value={filter.q} set={setText} />
      </div>
      <div className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_330px]">
        <div ref={scroller} className="scrolls min-h-0 overflow-auto border-r hair" tabIndex={0} role="region" aria-label="Steps">
          {view.total === 0 && <p className="quiet p-8 text-center">No steps match.</p>}
          <div className="relative" style={{ height: virtual.getTotalSize() }}>
            {items.map((item) => {
              const step = row(item.index);
              return (
                step && (
                  <div key={step.id} className="absolute inset-x-0" style={{ transform: `translateY(${item.start}px)` }}>
                    <StepLine
                      step={step}
                      current={step.id === current?.id}
                      index={item.index}
                      open={open}
                      withName={filter.slug === null}
                      today={view.today}
                    />
                  </div>
                )
              );
            })}
          </div>
        </div>
        <div className="min-h-0 overflow-auto" tabIndex={0} role="region" aria-label="The step">
          {current && <StepEditor key={current.id} step={current} />}
        </div>
      </div>
    </>
  );
}

type LineProps = { step: Step; index: number; current: boolean; open: (index: number, step: Step) => void; withName: boolean; today: string };

/** Drawn again only when what it says changes: a list that scrolls asks for all its lines at every step. */
const StepLine = memo(function StepLine({ step, index, current, open, withName, today }: LineProps) {
  const late = step.due !== null && step.due < today && step.state !== "closed";
  return (
    <button
      type="button"
      aria-current={current}
      onClick={() => open(index, step)}
      className={`grid h-[50px] w-full grid-cols-[minmax(0,1fr)_110px_130px_120px] items-center gap-3 border-b pr-4 pl-[22px] text-left leading-tight hair ${current ? "sheet" : "hover:bg-[var(--hover)]"}`}
      style={current ? { boxShadow: "inset 3px 0 var(--press)" } : undefined}
    >
      <span className="min-w-0">
        <code className={`block truncate font-semibold ${step.state === "closed" || step.waived ? "quiet line-through" : ""}`} title={step.title}>
          {step.title}
        </code>
        <span className="quiet block truncate text-[12.5px]">
          {withName && <>{step.application} · </>}
          {step.state === "closed" ? `closed: ${step.why}` : step.waived ? "waived" : `closes on ${step.missing}`}
        </span>
      </span>
      <span className="quiet text-[13px]">
        {step.state === "reopened" ? <b className="text-[var(--rose-text)]">found again</b> : step.stage === 0 ? "safe now" : `stage ${step.stage}`}
        <span className="block">{minutes(step.minutes)}</span>
      </span>
      <span className="truncate">{step.owner || <span className="quiet">nobody</span>}</span>
      <span className={`text-right ${late ? "font-bold text-[var(--rose-text)]" : ""}`}>{step.due ? day(step.due) : <span className="quiet">{step.live && step.state !== "closed" ? `planned ${shortDay(step.live)}` : "no date"}</span>}</span>
    </button>
  );
});

function Pick({ label, value, set, options }: { label: string; value: string; set: (value: string) => void; options: string[] }) {
  return (
    <div role="group" aria-label={label} className="flex items-center gap-1">
      <span className="quiet mr-1">{label}</span>
      {options.map((option) => (
        <button key={option} type="button" aria-pressed={value === option} className={`rounded px-1.5 py-0.5 ${value === option ? "sheet font-semibold outline outline-[var(--line)]" : "quiet hover:text-[var(--ink)]"}`} onClick={() => set(option)}>
          {option}
        </button>
      ))}
    </div>
  );
}
