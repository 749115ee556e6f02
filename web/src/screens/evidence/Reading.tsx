/** Findings beside the source they stand in and why: the three columns of Evidence. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, type ReactNode, Suspense } from "react";

import { type FindingFilter, findingPositionQuery, findingQuery, findingsQuery, PAGE } from "../../api/queries";
import type { Evidence, Finding, FindingWindow } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { figure } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { useParam, useSetParams } from "../../lib/params";
import { CauseList } from "./CauseList";
import { FindingDetail } from "./FindingDetail";
import { Places } from "./Places";

const SourcePane = lazy(() => import("./SourcePane"));

type Props = { evidence: Evidence; filter: FindingFilter; byPlace: { within: string; enter: (folder: string) => void } | null; none: ReactNode };

export function Reading({ evidence, filter, byPlace, none }: Props) {
  const { slug } = evidence.application;
  const client = useQueryClient();
  const [key] = useParam("finding");
  const setParams = useSetParams();
  const [at, setAt] = useParam("at");
  const first = useQuery(findingsQuery(slug, evidence.scan, filter));
  const chosen = key || (first.data?.rows[0]?.key ?? "");
  const position = useQuery({ ...findingPositionQuery(slug, evidence.scan, filter, chosen), enabled: chosen !== "" && !byPlace });
  const finding = useQuery({ ...findingQuery(slug, evidence.scan, filter, chosen), enabled: chosen !== "" });
  const fits = position.data?.rows[0]?.key === chosen;
  const index = key === "" ? 0 : fits ? (position.data?.offset ?? 0) : -1;
  const goTo = async (next: number) => {
    const to = Math.min(Math.max(next, 0), (first.data?.total ?? 1) - 1);
    const page: FindingWindow = await client.ensureQueryData(findingsQuery(slug, evidence.scan, filter, Math.floor(to / PAGE)));
    const row = page.rows[to - page.offset];
    if (!row) return;
    setParams({ finding: row.key, at: "" });
  };
  const shown = finding.data?.key === chosen ? finding.data : undefined;
  const places = shown?.places ?? [];
  const standing = Math.max(places.findIndex((p) => `${p.file}:${p.line}` === at), 0);
  const step = (by: number) => {
    const next = places[(standing + by + places.length) % places.length];
    if (next) setAt(`${next.file}:${next.line}`);
  };
  useKeys({ j: () => void goTo(index + 1), k: () => void goTo(index - 1), n: () => step(1), p: () => step(-1) });
  if (first.isPending) return <Waiting what="the findings" />;
  if (first.isError) return <Failed error={first.error} again={() => void first.refetch()} />;
  if (first.data.total === 0 && !byPlace?.within) return none;
  return (
    <div className="grid min-h-0 grow grid-cols-[minmax(240px,390px)_minmax(0,1fr)_300px]">
      <div className="flex min-h-0 flex-col border-r hair">
        {byPlace ? (
          <Places evidence={evidence} filter={filter} {...byPlace} current={{ key: chosen, file: places[standing]?.file ?? "" }} open={(next, file, line) => setParams({ finding: next, at: `${file}:${line}` })} />
        ) : (
          <CauseList slug={slug} scan={evidence.scan} filter={filter} causes={first.data.causes} current={{ key: chosen, index }} open={(row) => setParams({ finding: row.key, at: "" })} />
        )}
      </div>
      <Source evidence={evidence} finding={shown} standing={standing} step={step} missing={finding.isError} />
      <div className="min-h-0 overflow-auto border-l hair" tabIndex={0} role="region" aria-label="Why">
        {shown && <FindingDetail finding={shown} evidence={evidence} />}
        {finding.isError && <p className="quiet p-[18px] text-[14px]">{finding.error.message}</p>}
      </div>
    </div>
  );
}

type SourceProps = { evidence: Evidence; finding: Finding | undefined; standing: number; step: (by: number) => void; missing: boolean };

function Source({ evidence, finding, standing, step, missing }: SourceProps) {
  const place = finding?.places[standing];
  const counted = finding ? `${standing + 1} of ${figure(finding.place_count)} ${finding.place_count === 1 ? "place" : "places"}` : "";
  return (
    <div className="flex min-h-0 min-w-0 flex-col">
      {place && (
        <div className="flex items-center gap-3 border-b px-4 py-1.5 hair">
          <code className="min-w-0 truncate font-semibold" title={place.file}>
            {place.file}
          </code>
          {place.role !== "source" && <span className="quiet shrink-0 text-[12.5px]">{place.role}</span>}
          <span className="quiet code shrink-0">{counted}</span>
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
        <p className="quiet p-5">{finding ? "This finding has no place in a file." : missing ? "Choose a finding on the left." : "Choose a folder or a file on the map."}</p>
      )}
    </div>
  );
}
