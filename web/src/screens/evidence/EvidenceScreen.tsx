/** What stands in the way of one application: findings, the source with its places, why and what to write instead. */
import { useQuery } from "@tanstack/react-query";
import { useMemo, useRef } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { evidenceQuery } from "../../api/queries";
import type { Evidence } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { SavedFilters } from "./SavedFilters";
import { Coverage } from "./Coverage";
import { Modules } from "./Modules";
import { Packages } from "./Packages";
import { Reading } from "./Reading";
import { OtherChanges } from "./OtherChanges";

export default function EvidenceScreen() {
  const slug = useParams().slug ?? "";
  const query = useQuery(evidenceQuery(slug));
  if (query.isPending) return <Waiting what="the evidence" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const { application, heading, emphasis } = query.data;
  return (
    <div className="flex h-[calc(100vh-48px)] min-h-[480px] flex-col">
      <AppHeader row={application} heading={heading} emphasis={emphasis} />
      {application.state === "failed" && <Failed error={new Error(application.problem)} />}
      {application.scanned_at === null && application.state !== "failed" ? (
        <Empty title={application.state === "never" ? "It was not scanned yet." : "It is being scanned."}>What breaks, where and at which version stands here afterwards.</Empty>
      ) : (
        <Body evidence={query.data} />
      )}
    </div>
  );
}

const TURNS: [string, string][] = [
  ["cause", "cause"],
  ["place", "place"],
  ["packages", "packages"],
  ["modules", "modules"],
  ["coverage", "coverage"],
  ["other", "other changes"],
];

const WHERES: [string, string][] = [
  ["anywhere", "in all files"],
  ["source", "in source"],
  ["test", "in tests"],
  ["other", "not ours"],
];

function Body({ evidence }: { evidence: Evidence }) {
  const [by, setBy] = useParam("by", "cause");
  const [show, setShow] = useParam("show", "all");
  const [where, setWhere] = useParam("where", "anywhere");
  const [within, setWithin] = useParam("in");
  const [text, setText] = useParam("q");
  const search = useRef<HTMLInputElement>(null);
  const filter = useMemo(() => ({ show, where, within: by === "place" ? within : "", q: text }), [show, where, within, by, text]);
  useKeys({
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  const turning = by === "cause" || by === "place";
  const { slug, scanned_at } = evidence.application;
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3.5 gap-y-1 border-b px-[22px] py-1.5 text-[13.5px] hair">
        <Turn label="by" value={by} set={setBy} options={TURNS} />
        {turning && (
          <>
            <Turn label="show" value={show} set={setShow} options={[["all", "all"], ["now", "safe now"], ["hop", "at the hop"], ["switch", "needs a switch"], ["new", "new"], ["notes", "notes"]]} />
            <select aria-label="in which files" className="field w-28" value={where} onChange={(e) => setWhere(e.target.value)}>
              {WHERES.map(([value, word]) => (
                <option key={value} value={value}>
                  {word}
                </option>
              ))}
            </select>
          </>
        )}
        <span className="grow" />
        <SavedFilters />
        {by !== "coverage" && by !== "modules" && <FilterField field={search} label={by === "packages" ? "Filter packages" : by === "other" ? "Filter changes" : "Filter findings"} value={text} set={setText} width="w-40" />}
      </div>
      {by === "packages" && <Packages slug={slug} scannedAt={scanned_at ?? ""} text={text} />}
      {by === "coverage" && <Coverage evidence={evidence} />}
      {by === "other" && <OtherChanges evidence={evidence} text={text} />}
      {by === "modules" && <ModulesTurn slug={slug} scannedAt={scanned_at ?? ""} />}
      {turning && evidence.gone.length > 0 && show === "new" && <Gone titles={evidence.gone} count={evidence.gone_count} />}
      {turning && <Reading evidence={evidence} filter={filter} byPlace={by === "place" ? { within, enter: setWithin } : null} none={<NoFindings evidence={evidence} filtered={evidence.count > 0} />} />}
    </>
  );
}

/** Opening a folder of the graph turns to its places, in one step of the address. */
function ModulesTurn({ slug, scannedAt }: { slug: string; scannedAt: string }) {
  const navigate = useNavigate();
  return <Modules slug={slug} scannedAt={scannedAt} open={(folder) => void navigate(`?by=place&in=${encodeURIComponent(folder)}`)} />;
}

function Gone({ titles, count }: { titles: string[]; count: number }) {
  return (
    <p className="border-b px-[22px] py-1.5 text-[13.5px] hair">
      <b>Gone since the scan before:</b> <span className="quiet">
        {titles.join(" · ")}
        {count > titles.length && ` and ${count - titles.length} more`}
      </span>
    </p>
  );
}

function NoFindings({ evidence, filtered }: { evidence: Evidence; filtered: boolean }) {
  const { application } = evidence;
  if (filtered) return <Empty title="No findings match.">Change the filter, or show all.</Empty>;
  if (application.clear === null || application.known < 0.8) {
    return (
      <Empty title="Nothing was found, and that says little.">
        {application.languages.length > 0 ? `${application.languages.join(", ")} is not read yet. ` : ""}
        Only {Math.floor(application.known * 100)} % of the checks are known. <Link className="underline" to="?by=coverage">See the coverage</Link>.
      </Empty>
    );
  }
  return <Empty title="Nothing that is known stands in the way.">Every use of a tracked name resolves at {application.destination_lines.join(", ")}.</Empty>;
}

function Turn({ label, value, set, options }: { label: string; value: string; set: (value: string) => void; options: [string, string][] }) {
  return (
    <div role="group" aria-label={label} className="flex items-center gap-1">
      <span className="quiet mr-1">{label}</span>
      {options.map(([name, text]) => (
        <button key={name} type="button" aria-pressed={value === name} className={`rounded px-1.5 py-0.5 ${value === name ? "sheet font-semibold outline outline-[var(--line)]" : "quiet hover:text-[var(--ink)]"}`} onClick={() => set(name)}>
          {text}
        </button>
      ))}
    </div>
  );
}
