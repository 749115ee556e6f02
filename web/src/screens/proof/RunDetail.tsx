/** One run: the same tests on both sides, what is not alike by name, and how each side ended. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { runQuery } from "../../api/queries";
import type { RunView, TestCause } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { moment, plural, seconds } from "../../lib/format";
import { LiveLog } from "./LiveLog";
import { Strip } from "./Strip";

export function RunDetail({ slug, number }: { slug: string; number: number }) {
  const query = useQuery(runQuery(slug, number));
  if (query.isPending) return <Waiting what="the run" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  return <Told slug={slug} run={query.data} />;
}

function Told({ slug, run }: { slug: string; run: RunView }) {
  const [log, setLog] = useState("");
  const total = run.groups.reduce((sum, group) => sum + group.codes.length, 0);
  const title = run.sides.length > 1 ? (total > 0 ? `the same ${plural(total, "test")} on both sides` : "no test told of itself") : plural(run.sides[0]?.tests ?? 0, "test");
  return (
    <section aria-label="Tests of the run" className="border-t px-[22px] pt-2 pb-3 hair">
      <h2 className="text-[15.5px] font-bold">
        {run.stage ? `Stage ${run.stage}` : "Today"}, {title}
      </h2>
      <p className="quiet mb-2 text-[13px]">
        {run.sides.map((side) => `${side.lines.join(", ")}${side.packages ? ` with ${plural(side.packages, "package")}` : ""}`).join(" (above) and ")}
        {run.sides.length > 1 && " (below)"}
        {run.branch && `, with the code of ${run.branch}`}; {moment(run.at)}
        {run.who && `, ${run.who}`}
      </p>
      {run.problem && <p className="mb-2 text-[14px] font-semibold text-[var(--rose-text)]">{run.problem}</p>}
      {run.sides.length > 1 && total > 0 && <Strip run={run} />}
      {run.causes.length > 0 && <Causes run={run} />}
      <ul className="mt-2 flex flex-col gap-1 text-[13px]">
        {run.sides.map((side) => (
          <li key={side.log} className="flex flex-wrap items-baseline gap-2">
            <b>{side.label}</b>
            <code className="[overflow-wrap:anywhere]">{side.command}</code>
            <span className="quiet">
              {[side.ended, side.said, plural(side.tests, "test"), seconds(side.seconds)].filter(Boolean).join(" · ")}
            </span>
            <button type="button" className="underline" aria-expanded={log === side.log} onClick={() => setLog(log === side.log ? "" : side.log)}>
              log
            </button>
          </li>
        ))}
      </ul>
      {log && (
        <div className="mt-2 h-[300px]">
          <LiveLog key={log} slug={slug} name={log} label={`Log of the run, ${log}`} />
        </div>
      )}
    </section>
  );
}

const SHOWN = 6;

/** What is not alike, by what went wrong: one row a cause, its tests on demand. */
function Causes({ run }: { run: RunView }) {
  const [all, setAll] = useState(false);
  const rows = all ? run.causes : run.causes.slice(0, SHOWN);
  return (
    <ul aria-label="Tests that are not alike on both sides" className="mt-2 text-[13px]">
      {rows.map((cause) => (
        <li key={`${cause.verdict}${cause.note}`} className="border-t py-0.5 hair">
          <CauseRow cause={cause} />
        </li>
      ))}
      {run.causes.length > rows.length && (
        <li>
          <button type="button" className="underline" onClick={() => setAll(true)}>
            {plural(run.causes.length - rows.length, "more cause")}
            {run.more > 0 && `, and ${run.more} that are only in the log`}
          </button>
        </li>
      )}
    </ul>
  );
}

function CauseRow({ cause }: { cause: TestCause }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="flex w-full items-baseline gap-3 text-left hover:bg-[var(--hover)]" aria-expanded={open} onClick={() => setOpen(!open)}>
        <span className={`w-[104px] shrink-0 ${cause.verdict === "breaks" ? "font-bold text-[var(--rose-text)]" : "quiet"}`}>{cause.verdict}</span>
        <span className="w-[84px] shrink-0 text-right">{plural(cause.count, "test")}</span>
        <span className="min-w-0 grow truncate" title={cause.note}>
          {cause.note || <code>{cause.names[0]}</code>}
        </span>
        <code className="quiet max-w-[40%] truncate">{cause.note ? cause.names[0] : ""}</code>
      </button>
      {open && (
        <ul className="my-1 ml-[200px] [overflow-wrap:anywhere]">
          {cause.names.map((name) => (
            <li key={name}>
              <code>{name}</code>
            </li>
          ))}
          {cause.count > cause.names.length && <li className="quiet">and {(cause.count - cause.names.length).toLocaleString("en-GB")} more</li>}
        </ul>
      )}
    </>
  );
}
