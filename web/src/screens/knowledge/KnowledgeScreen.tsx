/** What Yoake knows: lines and their dates on one time axis, how each was read, and the weights behind the figures. */
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { coordinateQuery, effortQuery, knowledgeQuery } from "../../api/queries";
import { FilterField } from "../../components/FilterField";
import { Failed, Waiting } from "../../components/States";
import { plural } from "../../lib/format";
import { useKeys } from "../../lib/keys";
import { useParam } from "../../lib/params";
import { Coordinate } from "./Coordinate";
import { Coordinates } from "./Coordinates";
import { Efforts } from "./Efforts";
import { MakeKnown } from "./MakeKnown";

export default function KnowledgeScreen() {
  const [text, setText] = useParam("q");
  const [of, choose] = useParam("of");
  const query = useQuery(knowledgeQuery(text));
  const chosen = of || (query.data?.rows[0]?.short ?? "");
  const coordinate = useQuery(coordinateQuery(chosen));
  const table = useQuery(effortQuery).data;
  const [now] = useState(() => Date.now());
  const search = useRef<HTMLInputElement>(null);
  useKeys({
    "/": (event) => {
      event.preventDefault();
      search.current?.focus();
    },
  });
  if (query.isPending) return <Waiting what="what is known" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  return (
    <div className="flex h-[calc(100vh-48px)] min-h-[480px] flex-col">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-1 border-b px-[22px] py-2 hair">
        <h1 className="text-[21px] font-bold tracking-tight">
          {plural(query.data.known, "coordinate")} known, {plural(query.data.captured, "line")} captured from the artefacts themselves.
        </h1>
        <span className="grow" />
        <MakeKnown />
      </div>
      <div className="grid min-h-0 grow grid-cols-[minmax(220px,300px)_minmax(0,1fr)]">
        <div className="flex min-h-0 flex-col border-r hair">
          <div className="p-2 pl-[22px]">
            <FilterField field={search} label="Filter coordinates" value={text} set={setText} width="w-full" />
          </div>
          <Coordinates key={text} text={text} total={query.data.total} chosen={chosen} choose={choose} />
        </div>
        <div className="min-h-0 overflow-auto p-[22px]" tabIndex={0} role="region" aria-label="Lines">
          {coordinate.data && <Coordinate coordinate={coordinate.data} now={now} />}
          {coordinate.isError && <Failed error={coordinate.error} />}
          {table && <Efforts table={table} />}
        </div>
      </div>
    </div>
  );
}
