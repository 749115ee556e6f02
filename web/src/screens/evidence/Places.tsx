/** Findings by place: the map of the code above, the files with the most to do below. */
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";

import { type FindingFilter, mapQuery, placesQuery } from "../../api/queries";
import type { Evidence } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { CodeMap } from "./CodeMap";
import { PlaceList } from "./PlaceList";

type Props = { evidence: Evidence; filter: FindingFilter; within: string; enter: (folder: string) => void; current: { key: string; file: string }; open: (key: string, file: string, line: number) => void };

export function Places({ evidence, filter, within, enter, current, open }: Props) {
  const { slug } = evidence.application;
  const files = useQuery(mapQuery(slug, evidence.scan, within));
  const places = useInfiniteQuery(placesQuery(slug, evidence.scan, filter));
  if (places.isError) return <Failed error={places.error} again={() => void places.refetch()} />;
  if (places.isPending) return <Waiting what="the places" />;
  const rows = places.data.pages.flatMap((page) => page.rows);
  const total = places.data.pages[0]?.total ?? 0;
  return (
    <div className="min-h-0 grow overflow-auto" tabIndex={0} role="region" aria-label="Findings">
      <CodeMap files={files.data ?? []} within={within} enter={enter} current={current.file} />
      <PlaceList files={rows} total={total} current={current} open={open} more={places.hasNextPage ? () => void places.fetchNextPage() : null} />
      {rows.length === 0 && <p className="quiet px-[22px] py-3 text-[13.5px]">No finding stands here.</p>}
    </div>
  );
}
