/** Is a stage proven? Stages against their evidence, the same tests on both sides, and the work that is left. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";

import { jobsQuery, proofQuery } from "../../api/queries";
import type { ProofView } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { Empty, Failed, Waiting } from "../../components/States";
import { useScans } from "../../components/useScans";
import { useParam, useSetParams } from "../../lib/params";
import { LightPatterns } from "../horizon/LaneChart";
import { GateGrid } from "./GateGrid";
import { LiveLog } from "./LiveLog";
import { RunDetail } from "./RunDetail";
import { RunsList } from "./RunsList";
import { Settings } from "./Settings";
import { ToDoList } from "./ToDoList";
import { WorkLeft } from "./WorkLeft";

export default function ProofScreen() {
  const slug = useParams().slug ?? "";
  const query = useQuery(proofQuery(slug));
  if (query.isPending) return <Waiting what="the evidence" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const proof = query.data;
  return (
    <div className="pb-6">
      <LightPatterns />
      <AppHeader row={proof.application} heading={proof.heading} emphasis={proof.emphasis} />
      {proof.stages.length === 0 ? <Empty title="There is nothing to prove yet.">Scan it first: stages and what they need follow from that.</Empty> : <Body slug={slug} proof={proof} />}
      {proof.left.length > 0 && <WorkLeft proof={proof} />}
    </div>
  );
}

function Body({ slug, proof }: { slug: string; proof: ProofView }) {
  const [said] = useParam("stage", "");
  const setParams = useSetParams();
  const [run, setRun] = useParam("run", "");
  const [asking, setAsking] = useState(false);
  const stage = said === "" ? (proof.here ?? 0) : Number(said);
  const newest = proof.runs.find((one) => one.here === stage);
  const shown = run !== "" && proof.runs.some((one) => String(one.id) === run) ? Number(run) : (newest?.id ?? null);
  const choose = (number: number) => setParams({ run: "", stage: String(number) });
  return (
    <>
      <div className="flex items-start gap-6 px-[22px] pt-3 pb-2">
        <div className="min-w-0 grow overflow-x-auto">
          <GateGrid stages={proof.stages} chosen={stage} choose={choose} />
        </div>
        <ToDoList key={stage} slug={slug} proof={proof} stage={stage} ask={() => setAsking(true)} />
      </div>
      {proof.job !== null && <UnderWay slug={slug} job={proof.job} />}
      {proof.job === null && proof.failed && <p className="border-t px-[22px] py-2 text-[14px] font-semibold text-[var(--rose-text)] hair">The last run came to nothing: {proof.failed}</p>}
      {shown !== null && <RunDetail key={shown} slug={slug} number={shown} />}
      <RunsList runs={proof.runs} chosen={shown} choose={(id) => setRun(String(id))} />
      {asking && <Settings slug={slug} name={proof.application.name} settings={proof.settings} modules={proof.modules} close={() => setAsking(false)} />}
    </>
  );
}

/** A run that goes on: what it does, what it says, and a way to stop it. */
function UnderWay({ slug, job }: { slug: string; job: number }) {
  const jobs = useQuery(jobsQuery);
  const { stop } = useScans();
  const phase = jobs.data?.find((one) => one.id === job)?.phase;
  return (
    <section aria-label="Run under way" className="border-t px-[22px] py-2 hair">
      <div className="mb-1 flex items-center gap-3 text-[14px]">
        <b>{phase ?? "It waits for its turn."}</b>
        <button type="button" className="press" onClick={() => stop([job])}>
          Stop
        </button>
      </div>
      <div className="grid h-[170px] grid-cols-2 gap-3">
        <LiveLog slug={slug} name={`${job}-old.log`} label="What the old side says" />
        <LiveLog slug={slug} name={`${job}-new.log`} label="What the new side says" />
      </div>
    </section>
  );
}
