/** The report for people who will never open Yoake: seen here, printed or taken away. */
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { portfolioQuery, wavesQuery, WHOLE } from "../../api/queries";
import { Empty, Failed, Waiting } from "../../components/States";
import { useParam } from "../../lib/params";
import { sourceOf } from "./sources";
import { WatchDialog } from "./WatchDialog";

const NAMED = { ...WHOLE, order: "name" };

export default function ReportScreen() {
  const query = useQuery(portfolioQuery(NAMED));
  const waves = useQuery(wavesQuery);
  const [about, setAbout] = useParam("application");
  const [watching, setWatching] = useState(false);
  const frame = useRef<HTMLIFrameElement>(null);
  if (query.isPending) return <Waiting what="the portfolio" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  if (query.data.held === 0) return <Empty alone title="There is nothing to report yet.">Add an application first.</Empty>;
  const source = sourceOf(about);
  const teams = (waves.data?.teams ?? []).filter((team) => !team.vendor && team.stages.length > 0);
  return (
    <div className="flex h-[calc(100vh-48px)] flex-col">
      <div className="flex items-center gap-4 border-b px-[22px] py-3 hair">
        <h1 className="text-[23px] font-bold tracking-tight">Report</h1>
        <select className="field select select-sm w-64 text-[14px]" aria-label="Report about" value={about} onChange={(e) => setAbout(e.target.value)}>
          <option value="">the whole portfolio</option>
          <option value="board">one page for a board</option>
          <option value="digest:7">what changed in a week</option>
          <option value="digest:30">what changed in a month</option>
          <optgroup label="One page for a team">
            {teams.map((team) => (
              <option key={team.name} value={`team:${team.name}`}>
                {team.name}
              </option>
            ))}
          </optgroup>
          <optgroup label="An application">
            {query.data.entries.map((entry) => (
              <option key={entry.slug} value={entry.slug}>
                {entry.name}
              </option>
            ))}
          </optgroup>
        </select>
        <button type="button" className="press press-quiet" onClick={() => setWatching(true)}>
          Standing watch
        </button>
        <span className="grow" />
        <button type="button" className="press press-main" onClick={() => frame.current?.contentWindow?.print()}>
          Print
        </button>
        {source.forms.map((form) => (
          <a key={form.word} className="press" href={form.address} title={form.title} download>
            {form.word}
          </a>
        ))}
      </div>
      <iframe ref={frame} key={source.page} className="min-h-0 w-full grow bg-white" src={source.page} title={`Report of ${about || "the portfolio"}`} />
      {watching && <WatchDialog close={() => setWatching(false)} />}
    </div>
  );
}
