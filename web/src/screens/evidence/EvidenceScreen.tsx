/** What stands in the way of one application: findings, the source with its places, why and what to write instead. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useMemo, useRef } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { evidenceQuery, workQuery } from "../../api/queries";
import type { Evidence, Finding } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { FindingDetail } from "./FindingDetail";
import { CauseList, PlaceList } from "./FindingList";
import { CodeMap } from "./CodeMap";
import { byCause, matches, type Show, shownBy, standing, type Where } from "./grouping";
import { KeptFilters } from "./KeptFilters";
import { LookedAt } from "./LookedAt";
import { Modules } from "./Modules";
import { Packages } from "./Packages";
import { Rest } from "./Rest";

const SourcePane = lazy(() => import("./SourcePane"));

export default function EvidenceScreen() {
  const slug = useParams().slug ?? "";
  const query = useQuery(evidenceQuery(slug));
  const steps = useQuery(workQuery).data;
  if (query.isPending) return <Waiting what="the evidence" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const open = steps?.filter((s) => s.slug === slug && s.state !== "closed" && !s.waived).length;
  const { application, heading, emphasis } = query.data;
  return (
    <div className="flex h-[calc(100vh-48px)] min-h-[480px] flex-col">
      <AppHeader row={application} heading={heading} emphasis={emphasis} openSteps={open} />
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
  ["looked", "looked at"],
  ["rest", "the rest"],
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
  const shown = useMemo(() => {
    const wanted = evidence.findings.filter((f) => shownBy(f, show as Show) && (!text || matches(f, text)));
    return standing(wanted, where as Where, by === "place" ? within : "");
  }, [evidence.findings, show, text, where, within, by]);
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
        <KeptFilters />
        {by !== "looked" && by !== "modules" && <FilterField field={search} label={by === "packages" ? "Filter packages" : by === "rest" ? "Filter changes" : "Filter findings"} value={text} set={setText} width="w-40" />}
      </div>
      {by === "packages" && <Packages slug={slug} scannedAt={scanned_at ?? ""} text={text} />}
      {by === "looked" && <LookedAt evidence={evidence} />}
      {by === "rest" && <Rest evidence={evidence} text={text} />}
      {by === "modules" && <ModulesTurn slug={slug} scannedAt={scanned_at ?? ""} />}
      {turning && evidence.gone.length > 0 && show === "new" && <Gone titles={evidence.gone} />}
      {turning && shown.length === 0 && !(by === "place" && within) && <NoFindings evidence={evidence} filtered={evidence.findings.length > 0} />}
      {turning && (shown.length > 0 || (by === "place" && within)) && <Reading evidence={evidence} findings={shown} map={by === "place" ? { within, enter: setWithin } : null} />}
    </>
  );
}

/** Opening a folder of the graph turns to its places, in one step of the address. */
function ModulesTurn({ slug, scannedAt }: { slug: string; scannedAt: string }) {
  const navigate = useNavigate();
  return <Modules slug={slug} scannedAt={scannedAt} open={(folder) => void navigate(`?by=place&in=${encodeURIComponent(folder)}`)} />;
}

function Gone({ titles }: { titles: string[] }) {
  return (
    <p className="border-b px-[22px] py-1.5 text-[13.5px] hair">
      <b>Gone since the scan before:</b> <span className="quiet">{titles.join(" · ")}</span>
    </p>
  );
}

type Mapped = { within: string; enter: (folder: string) => void };

function Reading({ evidence, findings, map }: { evidence: Evidence; findings: Finding[]; map: Mapped | null }) {
  const [key, setKey] = useParam("finding");
  const [at, setAt] = useParam("at");
  const groups = useMemo(() => byCause(findings), [findings]);
  const ordered = useMemo(() => groups.flatMap((g) => g.findings), [groups]);
  const finding = ordered.find((f) => f.key === key) ?? ordered[0];
  const position = Math.max(finding?.places.findIndex((p) => `${p.file}:${p.line}` === at) ?? 0, 0);
  const place = finding?.places[position];
  const goTo = (next: Finding | undefined) => {
    if (!next) return;
    setAt("");
    setKey(next.key);
  };
  const walk = (by: number) => goTo(ordered[Math.min(Math.max(ordered.findIndex((f) => f.key === finding?.key) + by, 0), ordered.length - 1)]);
  const step = (by: number) => {
    const places = finding?.places ?? [];
    const next = places[(position + by + places.length) % places.length];
    if (next) setAt(`${next.file}:${next.line}`);
  };
  useKeys({ j: () => walk(1), k: () => walk(-1), n: () => step(1), p: () => step(-1) });
  return (
    <div className="grid min-h-0 grow grid-cols-[minmax(240px,390px)_minmax(0,1fr)_300px]">
      <div className="min-h-0 overflow-auto border-r hair" tabIndex={0} role="region" aria-label="Findings">
        {map ? (
          <>
          <CodeMap files={evidence.files} findings={evidence.findings} within={map.within} enter={map.enter} current={place?.file ?? ""} />
          <PlaceList
            findings={ordered}
            current={{ key: finding?.key ?? "", file: place?.file ?? "" }}
            open={(f, file, line) => {
              setKey(f.key);
              setAt(`${file}:${line}`);
            }}
          />
          {ordered.length === 0 && <p className="quiet px-[22px] py-3 text-[13.5px]">No finding stands here.</p>}
          </>
        ) : (
          <CauseList groups={groups} current={finding?.key ?? ""} open={goTo} />
        )}
      </div>
      <div className="flex min-h-0 min-w-0 flex-col">
        {place && finding && (
          <div className="flex items-center gap-3 border-b px-4 py-1.5 hair">
            <code className="min-w-0 truncate font-semibold" title={place.file}>
              {place.file}
            </code>
            {place.role !== "source" && <span className="quiet shrink-0 text-[12.5px]">{place.role}</span>}
            <span className="quiet code shrink-0">
              {position + 1} of {finding.places.length} {finding.places.length === 1 ? "place" : "places"}
            </span>
            <span className="grow" />
            <button type="button" className="key" title="Previous place" onClick={() => step(-1)}>
              p
            </button>
            <button type="button" className="key" title="Next place" onClick={() => step(1)}>
              n
            </button>
          </div>
        )}
        {place?.file && finding ? (
          <Suspense fallback={<Waiting what="the source" />}>
            <SourcePane slug={evidence.application.slug} file={place.file} scannedAt={evidence.application.scanned_at ?? ""} finding={finding} line={place.line} />
          </Suspense>
        ) : (
          <p className="quiet p-5">{finding ? "This finding has no place in a file." : "Choose a folder or a file on the map."}</p>
        )}
      </div>
      <div className="min-h-0 overflow-auto border-l hair" tabIndex={0} role="region" aria-label="Why">
        {finding && <FindingDetail finding={finding} evidence={evidence} />}
      </div>
    </div>
  );
}

function NoFindings({ evidence, filtered }: { evidence: Evidence; filtered: boolean }) {
  const { application } = evidence;
  if (filtered) return <Empty title="No finding is like that.">Loosen the filter, or show all.</Empty>;
  if (application.clear === null || application.known < 0.8) {
    return (
      <Empty title="Nothing was found, and that says little.">
        {application.languages.length > 0 ? `${application.languages.join(", ")} is not read yet. ` : ""}
        Only {Math.floor(application.known * 100)} % of the checks are known. <Link className="underline" to="?by=looked">See what was looked at</Link>.
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
