/** What happened here: who did what, when, and from what to what. */
import { API } from "../../api/address";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useMemo, useRef } from "react";
import { Link } from "react-router";

import { asked, eventsQuery } from "../../api/queries";
import type { EventWindow } from "../../api/types";
import { FilterField } from "../../components/FilterField";
import { Failed, Waiting } from "../../components/States";
import { moment, plural } from "../../lib/format";
import { useParam } from "../../lib/params";

export default function EventsScreen() {
  const [who, setWho] = useParam("who");
  const [slug, setSlug] = useParam("application");
  const [since, setSince] = useParam("since");
  const [until, setUntil] = useParam("until");
  const [q, setText] = useParam("q");
  const search = useRef<HTMLInputElement>(null);
  const filter = useMemo(() => ({ who, slug, since, until, q }), [who, slug, since, until, q]);
  const query = useInfiniteQuery(eventsQuery(filter));
  if (query.isPending) return <Waiting what="what happened" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  const rows = query.data.pages.flatMap((page) => page.rows);
  const total = query.data.pages[0]?.total ?? 0;
  return (
    <div className="page pb-10">
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">{total === 0 ? "Nothing like that happened." : `${plural(total, "event")}, newest first.`}</h1>
      <div className="my-2 flex flex-wrap items-center gap-4 text-[13.5px]">
        <label className="flex items-center gap-1.5 whitespace-nowrap">
          <span className="quiet">by</span> <input className="field w-36" aria-label="By" placeholder="anybody" value={who} onChange={(e) => setWho(e.target.value)} />
        </label>
        <label className="flex items-center gap-1.5 whitespace-nowrap">
          <span className="quiet">on</span> <input className="field w-40" aria-label="On application" placeholder="any application" value={slug} onChange={(e) => setSlug(e.target.value)} />
        </label>
        <label className="flex items-center gap-1.5 whitespace-nowrap">
          <span className="quiet">from</span> <input type="date" className="field" aria-label="From" value={since} onChange={(e) => setSince(e.target.value)} />
        </label>
        <label className="flex items-center gap-1.5 whitespace-nowrap">
          <span className="quiet">to</span> <input type="date" className="field" aria-label="To" value={until} onChange={(e) => setUntil(e.target.value)} />
        </label>
        <span className="grow" />
        <FilterField field={search} label="Filter events" value={q} set={setText} />
        <a className="press" href={`${API}/events/export${asked(filter)}`} download>
          CSV
        </a>
      </div>
      <ol className="text-[14px]">
        {rows.map((event) => (
          <EventLine key={event.id} event={event} />
        ))}
      </ol>
      {query.hasNextPage && (
        <button type="button" className="press my-3" onClick={() => void query.fetchNextPage()}>
          Show more of {plural(total, "event")}
        </button>
      )}
    </div>
  );
}

function EventLine({ event }: { event: EventWindow["rows"][number] }) {
  const change = [event.before, event.after].filter(Boolean).join(" → ");
  return (
    <li className="grid grid-cols-[150px_150px_170px_minmax(0,1fr)] items-baseline gap-4 border-b py-1 hair">
      <span className="quiet">{moment(event.at)}</span>
      <span className="truncate" title={event.who}>
        {event.who || <span className="quiet">Yoake</span>}
      </span>
      <span className="truncate">
        {event.slug && (
          <Link className="underline" to={`/applications/${event.slug}`}>
            {event.application}
          </Link>
        )}
      </span>
      <span className="min-w-0 break-words">
        {event.subject !== "application" && event.subject !== "scan" ? `${event.subject}: ` : ""}
        {event.what}
        {change && <span className="quiet"> {change}</span>}
        {event.why && <span className="quiet">, {event.why}</span>}
      </span>
    </li>
  );
}
