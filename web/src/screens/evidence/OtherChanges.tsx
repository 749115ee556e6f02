/** Everything else that changes on the way: the whole delta, with what this code does not use. */
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, useRef } from "react";

import { deltaQuery } from "../../api/queries";
import type { DeltaWindow, Evidence } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { figure, plural } from "../../lib/format";
import { usePages } from "../../lib/pages";
import { useParam } from "../../lib/params";

const ROW = 27;

export function OtherChanges({ evidence, text }: { evidence: Evidence; text: string }) {
  const moving = evidence.application.destination_coordinates;
  const [chosen, choose] = useParam("of", moving[0] ?? "");
  const query = useQuery(deltaQuery(evidence.application.slug, chosen, evidence.application.scanned_at ?? "", text));
  return (
    <div className="flex min-h-0 grow flex-col">
      <div className="flex items-center gap-2 border-b px-[22px] py-1.5 text-[13.5px] hair" role="group" aria-label="coordinate">
        {moving.map((name) => (
          <button key={name} type="button" aria-pressed={name === chosen} className={`rounded px-1.5 py-0.5 ${name === chosen ? "sheet font-semibold outline outline-[var(--line)]" : "quiet"}`} onClick={() => choose(name)}>
            {name}
          </button>
        ))}
        {query.data && (
          <span className="quiet">
            {query.data.start} → {query.data.goal}: {plural(query.data.removed, "name")} go, {figure(query.data.deprecated)} become deprecated, {figure(query.data.new)} are new
          </span>
        )}
      </div>
      {query.isPending && <Waiting what="what else changes" />}
      {query.isError && <Failed error={query.error} />}
      {query.data && <Changes key={`${chosen} ${text}`} slug={evidence.application.slug} coordinate={chosen} scannedAt={evidence.application.scanned_at ?? ""} text={text} total={query.data.total} />}
    </div>
  );
}

type Props = { slug: string; coordinate: string; scannedAt: string; text: string; total: number };
const WORDS: Record<string, string> = { removed: "gone at", deprecated: "deprecated at", new: "new at" };

function Changes({ slug, coordinate, scannedAt, text, total }: Props) {
  const host = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made for being read while rendering
  const rows = useVirtualizer({ count: total, getScrollElement: () => host.current, estimateSize: () => ROW, overscan: 10, useFlushSync: false });
  const items = rows.getVirtualItems();
  const row = usePages(items[0]?.index ?? 0, items.at(-1)?.index ?? 0, (page) => deltaQuery(slug, coordinate, scannedAt, text, page));
  if (total === 0) return <p className="quiet p-[22px]">No changes match.</p>;
  return (
    <div ref={host} className="scrolls min-h-0 grow overflow-auto" tabIndex={0} role="region" aria-label="All changes">
      <ul className="relative" style={{ height: rows.getTotalSize() }}>
        {items.map((item) => {
          const change = row(item.index);
          if (!change) return null;
          return (
            <li key={item.key} className="absolute w-full" style={{ height: ROW, transform: `translateY(${item.start}px)` }}>
              <ChangeLine change={change} />
            </li>
          );
        })}
      </ul>
    </div>
  );
}

/** Drawn again only when what it says changes. */
const ChangeLine = memo(function ChangeLine({ change }: { change: DeltaWindow["rows"][number] }) {
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_150px_130px_minmax(0,1fr)] items-baseline gap-4 border-b px-[22px] text-[13.5px] hair">
      <code className="truncate" title={change.symbol}>
        {change.symbol}
      </code>
      <span>
        {WORDS[change.kind]} {change.at}
      </span>
      <span className={change.used ? "font-semibold" : "quiet"}>{change.used ? "used here" : "not used here"}</span>
      <span className="quiet truncate" title={change.note}>
        {change.note}
      </span>
    </div>
  );
});
