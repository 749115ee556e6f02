/** The report for people who will never open Yoake: seen here, printed or taken away. */
import { API } from "../../api/address";
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";

import { portfolioQuery, WHOLE } from "../../api/queries";
import { Empty, Failed, Waiting } from "../../components/States";
import { useParam } from "../../lib/params";

const FORMS = [
  ["html", "Page"],
  ["csv", "CSV"],
  ["sarif", "SARIF"],
  ["cyclonedx", "Inventory"],
] as const;

const NAMED = { ...WHOLE, order: "name" };

export default function ReportScreen() {
  const query = useQuery(portfolioQuery(NAMED));
  const [slug, setSlug] = useParam("application");
  const frame = useRef<HTMLIFrameElement>(null);
  if (query.isPending) return <Waiting what="the portfolio" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (query.data.held === 0) return <Empty alone title="There is nothing to report yet.">Add an application first.</Empty>;
  const address = slug ? `${API}/reports/applications/${encodeURIComponent(slug)}` : `${API}/reports/portfolio`;
  return (
    <div className="flex h-[calc(100vh-48px)] flex-col">
      <div className="flex items-center gap-4 border-b px-[22px] py-3 hair">
        <h1 className="text-[23px] font-bold tracking-tight">Report</h1>
        <select className="field select select-sm w-64 text-[14px]" aria-label="Report about" value={slug} onChange={(e) => setSlug(e.target.value)}>
          <option value="">the whole portfolio</option>
          {query.data.entries.map((entry) => (
            <option key={entry.slug} value={entry.slug}>
              {entry.name}
            </option>
          ))}
        </select>
        <span className="grow" />
        <button type="button" className="press press-main" onClick={() => frame.current?.contentWindow?.print()}>
          Print
        </button>
        {FORMS.map(([form, word]) => (
          <a key={form} className="press" href={`${address}?form=${form}&download=true`} download>
            {word}
          </a>
        ))}
        {slug && (
          <a className="press" title="For builds: yoake scan --waivers FILE" href={`${API}/applications/${encodeURIComponent(slug)}/waivers`} download>
            Waivers
          </a>
        )}
      </div>
      <iframe ref={frame} key={address} className="min-h-0 w-full grow bg-white" src={address} title={`Report of ${slug || "the portfolio"}`} />
    </div>
  );
}
