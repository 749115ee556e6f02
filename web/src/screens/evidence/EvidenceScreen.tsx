/** What stands in the way of one application: findings, the source with its places, why and what to write instead. */
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useMemo, useRef } from "react";
import { Link, useParams } from "react-router";

import { evidenceQuery, workQuery } from "../../api/queries";
import type { Evidence, Finding } from "../../api/types";
import { AppHeader } from "../../components/AppHeader";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { FindingDetail } from "./FindingDetail";
import { CauseList, PlaceList } from "./FindingList";
import { byCause, matches, type Show, shownBy } from "./grouping";
import { LookedAt } from "./LookedAt";
import { Packages } from "./Packages";

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

function Body({ evidence }: { evidence: Evidence }) {
  const [by, setBy] = useParam("by", "cause");
  const [show, setShow] = useParam("show", "all");
  const [text, setText] = useParam("q");
  const search = useRef<HTMLInputElement>(null);
  const shown = useMemo(() => evidence.findings.filter((f) => shownBy(f, show as Show) && (!text || matches(f, text))), [evidence.findings, show, text]);
  useKeys({
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  const turning = by === "cause" || by === "place";
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b px-[22px] py-1.5 text-[13.5px] hair">
        <Turn label="by" value={by} set={setBy} options={[["cause", "cause"], ["place", "place"], ["packages", `packages ${evidence.packages.length || ""}`], ["looked", "looked at"]]} />
        {turning && (
          <Turn label="show" value={show} set={setShow} options={[["all", "all"], ["now", "safe now"], ["hop", "at the hop"], ["switch", "needs a switch"], ["new", "new"], ["notes", "notes"]]} />
        )}
        <span className="grow" />
        {turning && <FilterField field={search} label="Filter findings" value={text} set={setText} />}
      </div>
      {by === "packages" && <Packages evidence={evidence} />}
      {by === "looked" && <LookedAt evidence={evidence} />}
      {turning && shown.length === 0 && <NoFindings evidence={evidence} filtered={evidence.findings.length > 0} />}
      {turning && shown.length > 0 && <Reading evidence={evidence} findings={shown} byPlace={by === "place"} />}
    </>
  );
}

function Reading({ evidence, findings, byPlace }: { evidence: Evidence; findings: Finding[]; byPlace: boolean }) {
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
  if (!finding) return null;
  return (
    <div className="grid min-h-0 grow grid-cols-[minmax(240px,390px)_minmax(0,1fr)_300px]">
      <div className="min-h-0 overflow-auto border-r hair" tabIndex={0} role="region" aria-label="Findings">
        {byPlace ? (
          <PlaceList
            findings={ordered}
            current={{ key: finding.key, file: place?.file ?? "" }}
            open={(f, file, line) => {
              setKey(f.key);
              setAt(`${file}:${line}`);
            }}
          />
        ) : (
          <CauseList groups={groups} current={finding.key} open={goTo} />
        )}
      </div>
      <div className="flex min-h-0 min-w-0 flex-col">
        {place && (
          <div className="flex items-center gap-3 border-b px-4 py-1.5 hair">
            <code className="min-w-0 truncate font-semibold" title={place.file}>
              {place.file}
            </code>
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
        {place?.file ? (
          <Suspense fallback={<Waiting what="the source" />}>
            <SourcePane slug={evidence.application.slug} file={place.file} scannedAt={evidence.application.scanned_at ?? ""} finding={finding} line={place.line} />
          </Suspense>
        ) : (
          <p className="quiet p-5">This finding has no place in a file.</p>
        )}
      </div>
      <div className="min-h-0 overflow-auto border-l hair" tabIndex={0} role="region" aria-label="Why">
        <FindingDetail finding={finding} evidence={evidence} />
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
