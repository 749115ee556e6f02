/** The way of one application: what can be done today, then stage by stage, with slack and history. */
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";

import { pathQuery } from "../../api/queries";
import type { PathView } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { Empty, Failed, Waiting } from "../../components/States";
import { day, moment, signedWeeks } from "../../lib/format";
import { Ladder } from "./Ladder";
import { Track } from "./Track";

export default function PathScreen() {
  const query = useQuery(pathQuery(useParams().slug ?? ""));
  if (query.isPending) return <Waiting what="the path" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const path = query.data;
  const open = path.stages.reduce((n, stage) => n + stage.steps.filter((s) => s.state !== "closed" && !s.waived).length, 0);
  return (
    <>
      <AppHeader row={path.application} heading={path.heading} emphasis={path.emphasis} openSteps={open} />
      {path.stages.length === 0 ? (
        <Empty title="There is no path before the first scan.">Scan it: the stages, their dates and their steps stand here afterwards.</Empty>
      ) : (
        <div className="page pt-3">
          <Track path={path} />
          <Ladder path={path} />
          <div className="mt-8 grid grid-cols-2 gap-10 text-[14px]">
            <Slack path={path} />
            <Events path={path} />
          </div>
        </div>
      )}
    </>
  );
}

function Slack({ path }: { path: PathView }) {
  const rows = path.slacks.filter((row) => row.left80 !== null || row.support_ends !== null);
  return (
    <section aria-label="Slack">
      <h2 className="text-[16px] font-bold">Slack of each line</h2>
      <p className="quiet mb-1 text-[13px]">
        max(support end, today) − the 80 % date at which the plan leaves it, at {path.application.days_per_week} days a week. A stage costs {path.base_days} d + its edits × (1 +{" "}
        {path.kappa} × (lines crossed − 1)).
      </p>
      <table className="w-full">
        <thead>
          <tr className="quiet border-b text-left text-[13px] hair">
            <th className="font-normal">line</th>
            <th className="font-normal">support ends</th>
            <th className="font-normal">left by (80 %)</th>
            <th className="text-right font-normal">slack</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.coordinate + row.line} className="border-b hair">
              <td className="py-0.5">
                {row.name} {row.line}
              </td>
              <td>{day(row.support_ends)}</td>
              <td>{row.left80 ? day(row.left80) : <span className="quiet">stays</span>}</td>
              <td className={`text-right ${row.slack !== null && row.slack < 0 ? "font-bold" : ""}`}>{row.slack === null ? "" : signedWeeks(row.slack)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Events({ path }: { path: PathView }) {
  return (
    <section aria-label="What happened">
      <h2 className="mb-1 text-[16px] font-bold">What happened</h2>
      <ul>
        {path.events.slice(0, 14).map((event, i) => (
          <li key={`${event.at}${i}`} className="border-b py-0.5 hair">
            <span className="quiet">{moment(event.at)}</span> {event.subject} {event.what === "state" ? `${event.before ?? ""} → ${event.after ?? ""}` : event.what}
            {event.what !== "state" && event.after ? `: ${event.after}` : ""} {event.why && <span className="quiet">{event.why}</span>} {event.who && <span className="quiet">by {event.who}</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}
