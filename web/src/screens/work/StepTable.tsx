/** Steps in groups of which one is open, or in one list; the chosen step or group beside them, several chosen ones below. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useCallback, useMemo, useRef, useState } from "react";

import { call, problemOf } from "../../api/client";
import { asked, PAGE, type StepFilter, stepQuery, workQuery } from "../../api/queries";
import type { Step, StepGroup, WorkView } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { useKeys } from "../../lib/keys";
import { usePages } from "../../lib/pages";
import { useParam, useSetParams } from "../../lib/params";
import { lineAt, lineCount, lineOf } from "../../lib/sections";
import { ChosenSteps } from "./ChosenSteps";
import { GroupHead } from "./GroupHead";
import { GroupPane, MOST } from "./GroupPane";
import { StepEditor } from "./StepEditor";
import { StepLine } from "./StepLine";

const ROW = 50;
const HEAD = 40;

type Props = { filter: StepFilter; view: WorkView; groups: StepGroup[]; by: string };

export function StepTable({ filter, view, groups, by }: Props) {
  const [opened] = useParam("group");
  const setParams = useSetParams();
  const [chosen, setChosen] = useParam("step");
  const [at, setAt] = useState(-1);
  const picked = usePicked();
  const scroller = useRef<HTMLDivElement>(null);
  const client = useQueryClient();
  const open = opened === SHUT ? undefined : groups.find((group) => group.key === opened) ?? groups[0];
  const counts = useMemo(() => groups.map((group) => (group.key === open?.key ? group.steps : 0)), [groups, open?.key]);
  const total = groups.length > 0 ? (open?.steps ?? 0) : view.total;
  const rows = useMemo(() => (open ? of(filter, open, by) : filter), [filter, open, by]);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made for being read while rendering
  const virtual = useVirtualizer({ count: lineCount(counts, total), estimateSize: (n) => (lineAt(counts, n)?.kind === "head" ? HEAD : ROW), overscan: 8, useFlushSync: false, getScrollElement: () => scroller.current });
  const lines = virtual.getVirtualItems().map((item) => ({ item, line: lineAt(counts, item.index) }));
  const indices = lines.flatMap(({ line }) => (line?.kind === "row" ? [line.index] : []));
  const row = usePages(indices[0] ?? 0, indices.at(-1) ?? 0, (page) => ({ ...workQuery(rows, page), enabled: total > 0 }));
  const linked = useQuery({ ...stepQuery(chosen), enabled: chosen !== "" });
  const current = chosen !== "" ? linked.data : groups.length === 0 ? view.rows[0] : undefined;
  const show = useCallback(
    (index: number, step: Step) => {
      setAt(index);
      setChosen(String(step.id));
    },
    [setChosen],
  );
  const toggle = (group: StepGroup) => {
    setParams({ group: group.key === open?.key ? SHUT : group.key, step: "" });
    setAt(-1);
    virtual.measure();
  };
  const walk = async (by: number) => {
    const next = Math.min(Math.max(at + by, 0), total - 1);
    if (next < 0) return;
    const page: WorkView = await client.ensureQueryData(workQuery(rows, Math.floor(next / PAGE)));
    const step = page.rows[next - page.offset];
    if (!step) return;
    show(next, step);
    virtual.scrollToIndex(groups.length > 0 ? lineOf(counts, next) : next, { align: "auto" });
  };
  useKeys({ j: () => void walk(1), k: () => void walk(-1) });
  const doable = by === "stage" && filter.state === "open"; // what is closed or accepted waits for nothing
  const nothing = groups.length === 0 && view.total === 0;
  return (
    <>
      <div className="grid min-h-0 grow grid-cols-[minmax(0,1fr)_330px]">
        <div ref={scroller} className="scrolls min-h-0 overflow-auto border-r hair" tabIndex={0} role="region" aria-label="Steps">
          {nothing && <p className="quiet p-8 text-center">No steps match.</p>}
          <div className="relative" style={{ height: virtual.getTotalSize() }}>
            {lines.map(({ item, line }) => {
              const group = line?.kind === "head" ? groups[line.section] : undefined;
              const step = line?.kind === "row" ? row(line.index) : undefined;
              return (
                <div key={item.key} className="absolute inset-x-0" style={{ height: item.size, transform: `translateY(${item.start}px)` }}>
                  {group && <GroupHead group={group} by={by} doable={doable} open={group.key === open?.key} withName={filter.slug === null} toggle={toggle} />}
                  {step && line?.kind === "row" && (
                    <StepLine step={step} index={line.index} current={step.id === current?.id} picked={picked.held.has(step.id)} open={show} pick={picked.pick} withName={filter.slug === null && by !== "stage"} withStage={by !== "stage"} today={view.today} />
                  )}
                </div>
              );
            })}
          </div>
        </div>
        <div className="min-h-0 overflow-auto" tabIndex={0} role="region" aria-label="The step">
          {current ? <StepEditor key={current.id} step={current} /> : open && <GroupPane key={open.key} group={open} by={by} doable={doable} chooseAll={() => picked.all(rows)} choosing={picked.working} />}
        </div>
      </div>
      {picked.held.size > 0 && <ChosenSteps steps={[...picked.held.values()]} clear={picked.clear} />}
    </>
  );
}

const SHUT = "none";

/** The filter of the rows of one group. */
function of(filter: StepFilter, group: StepGroup, by: string): StepFilter {
  if (by === "person" && group.owner === "") return { ...filter, whose: "nobody" };
  return by === "person" ? { ...filter, owner: group.owner } : { ...filter, slug: group.slug, stage: group.stage };
}

/** Steps that are chosen together, as they were when they were. */
function usePicked() {
  const [held, setHeld] = useState<ReadonlyMap<number, Step>>(new Map());
  const [working, setWorking] = useState(false);
  const say = useToast();
  const pick = useCallback(
    (step: Step, picked: boolean) =>
      setHeld((before) => {
        const next = new Map(before);
        if (picked) next.set(step.id, step);
        else next.delete(step.id);
        return next;
      }),
    [],
  );
  const all = (filter: StepFilter) => {
    setWorking(true);
    const pages = Array.from({ length: Math.ceil(MOST / 100) }, (_, n) => call<WorkView>(`/work${asked({ ...filter, offset: n * 100, limit: 100 })}`));
    Promise.all(pages)
      .then((found) => setHeld(new Map(found.flatMap((page) => page.rows).map((step) => [step.id, step]))))
      .catch((error: unknown) => say(problemOf(error), { bad: true }))
      .finally(() => setWorking(false));
  };
  return { held, working, pick, all, clear: () => setHeld(new Map()) };
}
