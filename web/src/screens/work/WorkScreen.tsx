/** What do I do next? Steps by stage, by person or by urgency, for me and for everyone, with what each waits for and what closes it. */
import { useQuery } from "@tanstack/react-query";
import { useMemo, useRef } from "react";
import { Link, useParams } from "react-router";

import { evidenceQuery, type StepFilter, workGroupsQuery, workQuery } from "../../api/queries";
import type { WorkGroups, WorkView } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { figure, plural } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { useParam, useSetParams } from "../../lib/params";
import { who } from "../../lib/who";
import { StepTable } from "./StepTable";

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

const BYS = ["stage", "person", "urgency"];

function Steps({ filter, view }: { filter: StepFilter; view: WorkView }) {
  const [by] = useParam("by", "stage");
  const setParams = useSetParams();
  const [, setWhose] = useParam("whose", "everyone");
  const [, setState] = useParam("state", "open");
  const [, setText] = useParam("q");
  const search = useRef<HTMLInputElement>(null);
  const grouped = useQuery({ ...workGroupsQuery(filter, by), enabled: by !== "urgency" });
  const groups = by === "urgency" ? NONE : grouped.data?.by === by ? grouped.data : null;
  useKeys({
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  return (
    <>
      <div className="flex items-center gap-5 border-b px-[22px] py-1.5 text-[13.5px] hair">
        <Pick label="by" value={by} set={(to) => setParams({ by: to === "stage" ? "" : to, group: "", step: "" })} options={BYS} />
        <Pick label="whose" value={filter.whose} set={setWhose} options={["everyone", "me", "nobody"]} />
        <Pick label="state" value={filter.state} set={setState} options={["open", "closed", "waived", "all"]} />
        {filter.whose === "me" && !who() && <span className="quiet">Choose your name in the top bar.</span>}
        <span className="grow" />
        {groups?.by === "stage" && groups.groups.length > 0 && by === "stage" && filter.state === "open" && (
          <span>
            <b>{groups.now}</b> of {groups.groups.length} can be worked on now
          </span>
        )}
        {(by === "urgency" ? view.more : groups?.more) && <span className="quiet">{by === "urgency" ? `the first ${figure(view.total)} of more` : "the first of more"}</span>}
        <FilterField field={search} label="Filter steps" value={filter.q} set={setText} width="w-44" />
      </div>
      {grouped.isError ? <Failed error={grouped.error} again={() => void grouped.refetch()} /> : groups ? <StepTable key={by} filter={filter} view={view} groups={groups.groups} by={by} /> : <Waiting what="the work" />}
    </>
  );
}

const NONE: WorkGroups = { by: "stage", groups: [], now: 0, more: false };

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
