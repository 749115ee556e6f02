/** What checks on other machines complain about at a stage: each tool with its places. */
import { useQuery } from "@tanstack/react-query";

import { reportsQuery } from "../../api/queries";
import { Dialog } from "../../components/Dialog";
import { Failed, Waiting } from "../../components/States";
import { figure, moment, plural } from "../../lib/format";

export function Reports({ slug, stage, close }: { slug: string; stage: number; close: () => void }) {
  const query = useQuery(reportsQuery(slug));
  const shown = query.data?.filter((report) => report.stage === stage) ?? [];
  return (
    <Dialog title="Checks elsewhere" close={close} wide>
      {query.isPending && <Waiting what="the reports" />}
      {query.isError && <Failed error={query.error} again={() => void query.refetch()} />}
      <div className="flex max-h-[60vh] flex-col gap-4 overflow-auto text-[14px]" tabIndex={0} role="region" aria-label="Reports">
        {shown.map((report) => (
          <section key={report.tool} aria-label={report.tool}>
            <h3 className="text-[15.5px] font-bold">
              {report.tool}: {plural(report.errors, "error")}, {plural(report.warnings, "warning")}
              {report.notes > 0 && `, ${plural(report.notes, "note")}`}
            </h3>
            <p className="quiet text-[12.5px]">
              {report.machine}, at {report.commit.slice(0, 10)}, {moment(report.at)}
              {report.who && `, sent by ${report.who}`}
              {!report.fresh && "; the code moved on since"}
            </p>
            <ul className="mt-1">
              {report.findings.map((finding, n) => (
                <li key={n} className="grid grid-cols-[64px_1fr] gap-2 border-b py-1 hair">
                  <span className={finding.level === "error" ? "font-semibold text-[var(--rose-text)]" : "quiet"}>{finding.level}</span>
                  <span className="min-w-0">
                    {finding.message || finding.rule} <span className="quiet">{finding.message && finding.rule}</span>
                    <code className="block truncate text-[12.5px]" title={finding.path}>
                      {finding.path}
                      {finding.line > 0 && `:${finding.line}`}
                    </code>
                  </span>
                </li>
              ))}
            </ul>
            {report.errors + report.warnings + report.notes > report.findings.length && <p className="quiet">The first {figure(report.findings.length)} are shown.</p>}
          </section>
        ))}
      </div>
    </Dialog>
  );
}
