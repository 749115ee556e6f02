/** Slack of each line, what a shared library must bridge, and what happened. */
import type { PathView } from "../../api/types";
import { day, moment, signedWeeks } from "../../lib/format";

export function History({ path }: { path: PathView }) {
  return (
    <div className="mt-6 grid grid-cols-2 gap-10 border-t pt-3 text-[14px] hair">
      <div className="flex flex-col gap-5">
        <Slack path={path} />
        <Bridges path={path} />
      </div>
      <Events path={path} />
    </div>
  );
}

function Slack({ path }: { path: PathView }) {
  return (
    <section aria-label="Slack">
      <h2 className="text-[16px] font-bold">Slack of each line</h2>
      <p className="quiet mb-1 text-[13px]">
        max(support end, today) − the 80 % date at which the {path.adopted ? "adopted path" : "plan of least work"} leaves it, at {path.application.days_per_week} days a week.
      </p>
      {path.slacks.length === 0 && <p className="quiet">No line with a known end of support.</p>}
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
          {path.slacks.map((row) => (
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

function Bridges({ path }: { path: PathView }) {
  if (path.bridges.length === 0) return null;
  return (
    <section aria-label="Lines to bridge">
      <h2 className="text-[16px] font-bold">Lines to serve at once</h2>
      <p className="quiet mb-1 text-[13px]">Applications here require it; each line has to be served until the last of them leaves it (80 %).</p>
      <ul>
        {path.bridges.map((b) => (
          <li key={b.coordinate + b.line} className="flex gap-3 border-b py-0.5 hair">
            <span className="w-32">
              {b.name} {b.line}
            </span>
            <span className="w-40">{b.until ? `until ${day(b.until)}` : "no end in sight"}</span>
            <span className="quiet min-w-0 truncate" title={b.users.join(", ")}>
              {b.users.join(", ")}
            </span>
          </li>
        ))}
      </ul>
      {path.shared.map((goal) => (
        <p key={goal.name} className="mt-1">
          A destination for both sides:{" "}
          <b>
            {goal.name} {goal.line}
          </b>
          <span className="quiet">, the newest that {goal.users === 1 ? "its one user heads for" : `all ${goal.users} users can stand on when they have arrived`}</span>
        </p>
      ))}
    </section>
  );
}

function Events({ path }: { path: PathView }) {
  return (
    <section aria-label="History">
      <h2 className="mb-1 text-[16px] font-bold">History</h2>
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
