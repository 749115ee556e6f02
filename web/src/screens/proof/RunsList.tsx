/** Runs that there were, the newest first. */
import type { RunRow } from "../../api/types";
import { moment, plural } from "../../lib/format";

type Props = { runs: RunRow[]; chosen: number | null; choose: (run: number) => void };

export function RunsList({ runs, chosen, choose }: Props) {
  if (runs.length < 2) return null;
  return (
    <details className="border-t px-[22px] py-2 text-[13.5px] hair">
      <summary className="cursor-pointer font-semibold">{plural(runs.length, "run")}</summary>
      <ul className="mt-1 flex flex-col">
        {runs.map((run) => (
          <li key={run.id}>
            <button type="button" className={`flex w-full gap-4 px-1 py-0.5 text-left hover:bg-[var(--hover)] ${run.id === chosen ? "font-semibold" : ""}`} onClick={() => choose(run.id)}>
              <span className="w-20">{run.stage ? `stage ${run.stage}` : "today"}</span>
              <span className="quiet w-44">{moment(run.at)}</span>
              <span className="min-w-0 grow truncate">{said(run)}</span>
              <span className="quiet">{run.fresh ? "" : "before the newest scan"}</span>
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}

function said(run: RunRow): string {
  if (run.problem) return run.problem;
  const told = Object.entries(run.counts).map(([verdict, count]) => `${count} ${verdict === "both" ? "alike" : verdict}`);
  return told.join(", ") || "no test";
}
