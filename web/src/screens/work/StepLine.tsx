/** One step in a list: what it is, what closes it, who does it and by when; chosen together with others by its box. */
import { memo } from "react";

import type { Step } from "../../api/types";
import { day, minutes, shortDay } from "../../lib/format";

type Props = {
  step: Step;
  index: number;
  current: boolean;
  picked: boolean;
  open: (index: number, step: Step) => void;
  pick: (step: Step, picked: boolean) => void;
  withName: boolean;
  withStage: boolean;
  today: string;
};

/** Drawn again only when what it says changes: a list that scrolls asks for all its lines at every step. */
export const StepLine = memo(function StepLine({ step, index, current, picked, open, pick, withName, withStage, today }: Props) {
  const late = step.due !== null && step.due < today && step.state !== "closed";
  return (
    <div className={`flex h-[50px] w-full border-b hair ${current || picked ? "sheet" : "hover:bg-[var(--hover)]"}`} style={current ? { boxShadow: "inset 3px 0 var(--press)" } : undefined}>
      <label className="flex w-[44px] shrink-0 items-center justify-end pr-2">
        <input type="checkbox" className="h-[15px] w-[15px] accent-[var(--press)]" checked={picked} onChange={(event) => pick(step, event.target.checked)} aria-label={`Choose ${step.title}`} />
      </label>
      <button
        type="button"
        aria-current={current}
        onClick={() => open(index, step)}
        className="grid min-w-0 grow grid-cols-[minmax(0,1fr)_96px_120px_120px] items-center gap-3 pr-4 text-left text-[14px] leading-tight"
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
          {step.state === "reopened" ? <b className="text-[var(--rose-text)]">found again</b> : withStage && (step.stage === 0 ? "safe now" : `stage ${step.stage}`)}
          <span className="block">{minutes(step.minutes)}</span>
        </span>
        <span className="truncate">{step.owner || <span className="quiet">nobody</span>}</span>
        <span className={`text-right ${late ? "font-bold text-[var(--rose-text)]" : ""}`}>{step.due ? day(step.due) : <span className="quiet">{step.live && step.state !== "closed" ? `planned ${shortDay(step.live)}` : "no date"}</span>}</span>
      </button>
    </div>
  );
});
