/** The next steps, for me and for everyone, with what is missing to close each. */
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef } from "react";
import { Link, useParams } from "react-router";

import { evidenceQuery, portfolioQuery, workQuery } from "../../api/queries";
import type { Step } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { day, minutes, plural } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { who } from "../../lib/who";
import { StepEditor } from "./StepEditor";
import { listed, type States, type Whose } from "./steps";

const ROW = 50;

export default function WorkScreen() {
  const slug = useParams().slug ?? null;
  const query = useQuery(workQuery);
  const evidence = useQuery({ ...evidenceQuery(slug ?? ""), enabled: slug !== null });
  const today = useQuery(portfolioQuery).data?.today ?? "";
  if (query.isPending || (slug !== null && evidence.isPending)) return <Waiting what="the work" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (evidence.isError) return <Failed error={evidence.error} />;
  const own = query.data.filter((s) => slug === null || s.slug === slug);
  const open = own.filter((s) => s.state !== "closed" && !s.waived);
  const heading = sentence(own, open, today);
  return (
    <div className="flex h-[calc(100vh-48px)] min-h-[480px] flex-col">
      {slug !== null && evidence.data ? (
        <AppHeader row={evidence.data.application} heading={heading} emphasis="" openSteps={open.length} />
      ) : (
        <h1 className="px-[22px] pt-3 pb-2 text-[25px] font-bold tracking-tight">{heading}</h1>
      )}
      {own.length === 0 ? (
        <Empty title="There is no work yet.">
          Steps come from scans: what stands in the way of each application. <Link className="underline" to="/take-in">Take in applications</Link>.
        </Empty>
      ) : (
        <Steps all={query.data} slug={slug} today={today} />
      )}
    </div>
  );
}

function sentence(own: Step[], open: Step[], today: string): string {
  const late = open.filter((s) => s.due !== null && s.due < today).length;
  const again = open.filter((s) => s.state === "reopened").length;
  const closed = own.length - open.length;
  const parts = [`${plural(open.length, "step")} to do, ${closed} closed`];
  if (late) parts.push(`${late} past ${late === 1 ? "its" : "their"} date`);
  if (again) parts.push(`${again} found again`);
  return `${parts.join("; ")}.`;
}

function Steps({ all, slug, today }: { all: Step[]; slug: string | null; today: string }) {
  const [whose, setWhose] = useParam("whose", "everyone");
  const [states, setStates] = useParam("state", "open");
  const [text, setText] = useParam("q");
  const [chosen, setChosen] = useParam("step");
  const search = useRef<HTMLInputElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const me = who();
  const steps = useMemo(() => listed(all, { slug, whose: whose as Whose, states: states as States, me, text }), [all, slug, whose, states, me, text]);
  const current = all.find((s) => String(s.id) === chosen) ?? steps[0];
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made for being read while rendering
  const virtual = useVirtualizer({ count: steps.length, estimateSize: () => ROW, overscan: 8, getScrollElement: () => scroller.current });
  const walk = (by: number) => {
    const next = Math.min(Math.max(steps.findIndex((s) => s.id === current?.id) + by, 0), steps.length - 1);
    const step = steps[next];
    if (step) setChosen(String(step.id));
    virtual.scrollToIndex(next, { align: "auto" });
  };
  useKeys({
    j: () => walk(1),
    k: () => walk(-1),
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  return (
    <>
      <div className="flex items-center gap-5 border-b px-[22px] py-1.5 text-[13.5px] hair">
        <Pick label="whose" value={whose} set={setWhose} options={["everyone", "me", "nobody"]} />
        <Pick label="state" value={states} set={setStates} options={["open", "closed", "all"]} />
        {whose === "me" && !me && <span className="quiet">Choose your name in the top bar.</span>}
        <span className="grow" />
        <FilterField field={search} label="Filter steps" value={text} set={setText} />
      </div>
      <div className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_330px]">
        <div ref={scroller} className="min-h-0 overflow-auto border-r hair" tabIndex={0} role="region" aria-label="Steps">
          {steps.length === 0 && <p className="quiet p-8 text-center">No step is like that.</p>}
          <div className="relative" style={{ height: virtual.getTotalSize() }}>
            {virtual.getVirtualItems().map((item) => {
              const step = steps[item.index];
              return (
                step && (
                  <div key={step.id} className="absolute inset-x-0" style={{ transform: `translateY(${item.start}px)` }}>
                    <StepLine step={step} current={step.id === current?.id} open={() => setChosen(String(step.id))} withName={slug === null} today={today} />
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

function StepLine({ step, current, open, withName, today }: { step: Step; current: boolean; open: () => void; withName: boolean; today: string }) {
  const late = step.due !== null && step.due < today && step.state !== "closed";
  return (
    <button
      type="button"
      aria-current={current}
      onClick={open}
      className={`grid h-[50px] w-full grid-cols-[minmax(0,1fr)_110px_130px_120px] items-center gap-3 border-b pr-4 pl-[22px] text-left leading-tight hair ${current ? "sheet" : "hover:bg-[var(--hover)]"}`}
      style={current ? { boxShadow: "inset 3px 0 var(--press)" } : undefined}
    >
      <span className="min-w-0">
        <code className={`block truncate font-semibold ${step.state === "closed" || step.waived ? "quiet line-through" : ""}`} title={step.title}>
          {step.title}
        </code>
        <span className="quiet block truncate text-[12.5px]">
          {withName && <>{step.application} · </>}
          {step.state === "closed" ? "closed by a scan" : step.waived ? "waived" : `closes on ${step.missing}`}
        </span>
      </span>
      <span className="quiet text-[13px]">
        {step.state === "reopened" ? <b className="text-[var(--rose-text)]">found again</b> : step.stage === 0 ? "safe now" : `stage ${step.stage}`}
        <span className="block">{minutes(step.minutes)}</span>
      </span>
      <span className="truncate">{step.owner || <span className="quiet">nobody</span>}</span>
      <span className={`text-right ${late ? "font-bold text-[var(--rose-text)]" : ""}`}>{step.due ? day(step.due) : <span className="quiet">no date</span>}</span>
    </button>
  );
}

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
