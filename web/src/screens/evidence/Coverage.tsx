/** What was looked at: what is clear, what is not known and why, every file with its result, the packages, the history. */
import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";

import { filesQuery } from "../../api/queries";
import type { Evidence } from "../../api/types";
import { Failed } from "../../components/States";
import { Sun } from "../../components/Sun";
import { figure, moment, percent, plural } from "../../lib/format";
import { CorrectLine } from "./CorrectLine";

const SORTS: Record<string, string> = { usage: "uses of tracked names", package: "packages", toolchain: "toolchain pins", setting: "settings", unread_file: "files not read" };

export function Coverage({ evidence }: { evidence: Evidence }) {
  const { application } = evidence;
  return (
    <div className="overflow-auto p-[22px]">
      <div className="grid max-w-6xl grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-10 gap-y-7">
        <section aria-label="Clearance">
          <h2 className="mb-1 flex items-center gap-3 text-[17px] font-bold">
            <Sun share={application.clear === null ? null : application.sure} known={application.known} size={34} />
            {application.clear === null ? "Nothing is known yet" : `${percent(application.sure)} of all checks known to hold`}, {percent(1 - application.known)} not known
          </h2>
          <p className="quiet mb-2 text-[13.5px]">Weight that holds ÷ all weight; weights are minutes.{application.clear !== null && ` Of what is known, ${percent(application.clear)} hold.`}</p>
          <Tallies evidence={evidence} />
        </section>
        <section aria-label="Not known">
          <h2 className="mb-1 text-[17px] font-bold">Not known</h2>
          {Object.keys(evidence.unknowns).length === 0 && <p className="quiet">Nothing: every check was decided.</p>}
          <ul className="text-[14px]">
            {Object.entries(evidence.unknowns).map(([why, count]) => (
              <li key={why} className="flex justify-between gap-4 border-b py-1 hair">
                <span className="min-w-0 break-words">{why}</span>
                <b>{count}</b>
              </li>
            ))}
          </ul>
          {[...evidence.faults, ...evidence.scan_notes].map((line) => (
            <p key={line} className="mt-2 text-[14px]">
              {line}
            </p>
          ))}
        </section>
        <Today evidence={evidence} />
        <History evidence={evidence} />
      </div>
      <Files evidence={evidence} />
    </div>
  );
}

function Tallies({ evidence }: { evidence: Evidence }) {
  const most = Math.max(...evidence.tallies.map((t) => t.holds + t.fails + t.unknown), 1);
  return (
    <ul className="text-[13.5px]">
      {evidence.tallies.map((t) => (
        <li key={t.sort} className="grid grid-cols-[10rem_1fr_auto] items-center gap-3 py-0.5">
          <span>{SORTS[t.sort] ?? t.sort}</span>
          <span className="flex h-2.5">
            <span style={{ width: `${(100 * t.holds) / most}%`, background: "var(--day)", outline: "1px solid var(--line)" }} />
            <span style={{ width: `${(100 * t.fails) / most}%`, background: "repeating-linear-gradient(135deg, var(--night) 0 3px, var(--night-stripe) 3px 5px)" }} />
            <span style={{ width: `${(100 * t.unknown) / most}%`, background: "radial-gradient(var(--unknown-dot) 1px, var(--unknown) 1.4px) 0 0 / 5px 5px" }} />
          </span>
          <span className="quiet">
            {t.holds} hold, {t.fails} fail, {t.unknown} not known
          </span>
        </li>
      ))}
    </ul>
  );
}

function Today({ evidence }: { evidence: Evidence }) {
  return (
    <section aria-label="Today">
      <h2 className="mb-1 text-[17px] font-bold">Today’s lines</h2>
      {evidence.application.today.length === 0 && <p className="quiet">Nothing states what this stands on, and nothing that could be read shows it.</p>}
      <ul className="text-[14px]">
        {evidence.application.today.map((line) => (
          <li key={line.coordinate + line.module} className="border-b py-1 hair">
            <b>
              {line.name} {line.line}
            </b>{" "}
            <span className="quiet">
              {line.how === "inferred" ? "inferred from the code" : line.how === "said" ? "said by a person" : `${line.how}, ${line.where}`}
              {line.module ? `, in ${line.module}` : ""}
            </span>
            <CorrectLine application={evidence.application} line={line} />
            {line.disagreements.map((other) => (
              <span key={other} className="quiet block pl-4">
                but {other}
              </span>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

function History({ evidence }: { evidence: Evidence }) {
  return (
    <section aria-label="Scans">
      <h2 className="mb-1 text-[17px] font-bold">Scans</h2>
      <ul className="text-[14px]">
        {[...evidence.history].reverse().map((scan) => (
          <li key={scan.id} className="flex items-center justify-between gap-3 border-b py-1 hair">
            <span>
              {moment(scan.taken_at)} <span className="quiet">{scan.label}</span>
            </span>
            <span className="flex items-center gap-2">
              {plural(scan.errors, "error")} <Sun share={scan.clear} known={scan.known} size={20} />
              <span className="w-12 text-right">{scan.clear === null ? "?" : percent(scan.clear)}</span>
            </span>
          </li>
        ))}
      </ul>
      {evidence.gone.length > 0 && <p className="quiet mt-2 text-[13.5px]">Gone since the scan before: {evidence.gone.join("; ")}{evidence.gone_count > evidence.gone.length ? ` and ${evidence.gone_count - evidence.gone.length} more` : ""}</p>}
    </section>
  );
}

function Files({ evidence }: { evidence: Evidence }) {
  const [text, setText] = useState("");
  const query = useInfiniteQuery(filesQuery(evidence.application.slug, evidence.scan, text));
  const shown = query.data?.pages.flatMap((page) => page.rows) ?? [];
  const total = query.data?.pages[0]?.total ?? 0;
  return (
    <section aria-label="Files" className="mt-8 max-w-6xl">
      <div className="mb-1 flex items-baseline justify-between">
        <h2 className="text-[17px] font-bold">{text ? `${figure(total)} of the files match` : `${plural(total, "file")} listed`}</h2>
        <input className="field w-64" placeholder="filter files" aria-label="Filter files" value={text} onChange={(e) => setText(e.target.value)} />
      </div>
      {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
      <table className="w-full text-[13.5px]">
        <thead>
          <tr className="quiet border-b text-left hair">
            <th className="py-1 font-normal">file</th>
            <th className="font-normal">result</th>
            <th className="text-right font-normal">lines</th>
            <th className="text-right font-normal">clear</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((f) => (
            <tr key={f.path} className="border-b align-top hair">
              <td className="py-0.5 pr-4">
                <code className="break-all">{f.path}</code>
              </td>
              <td className="pr-4">
                {f.state === "unread" ? "not read" : f.state}
                {f.reason && <span className="quiet">: {f.reason}</span>}
              </td>
              <td className="text-right">{f.lines || ""}</td>
              <td className="text-right">{f.holds + f.fails > 0 ? percent(f.holds / (f.holds + f.fails)) : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {query.hasNextPage && (
        <button type="button" className="press my-3" onClick={() => void query.fetchNextPage()}>
          Show more of {plural(total, "file")}
        </button>
      )}
    </section>
  );
}
