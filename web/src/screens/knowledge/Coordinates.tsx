/** The list of what is known, of which the lines in sight are loaded. */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";

import { knowledgeQuery } from "../../api/queries";
import { usePages } from "../../lib/pages";

const ROW = 30;

type Props = { text: string; total: number; chosen: string; choose: (short: string) => void };

export function Coordinates({ text, total, chosen, choose }: Props) {
  const host = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made for being read while rendering
  const rows = useVirtualizer({ count: total, getScrollElement: () => host.current, estimateSize: () => ROW, overscan: 15 });
  const items = rows.getVirtualItems();
  const row = usePages(items[0]?.index ?? 0, items.at(-1)?.index ?? 0, (page) => knowledgeQuery(text, page));
  return (
    <div ref={host} className="scrolls min-h-0 grow overflow-auto" tabIndex={0} role="region" aria-label="Coordinates">
      {total === 0 && <p className="quiet px-[22px] py-2 text-[13.5px]">No coordinate of that name. Look it up above.</p>}
      <ul className="relative" style={{ height: rows.getTotalSize() }}>
        {items.map((item) => {
          const head = row(item.index);
          if (!head) return null;
          return (
            <li key={item.key} className="absolute inset-x-0" style={{ height: ROW, transform: `translateY(${item.start}px)` }}>
              <button
                type="button"
                aria-current={head.short === chosen}
                className={`flex h-full w-full items-center justify-between gap-3 border-b pr-3 pl-[22px] text-left text-[13.5px] hair ${head.short === chosen ? "sheet font-semibold" : "hover:bg-[var(--hover)]"}`}
                onClick={() => choose(head.short)}
              >
                <code className="min-w-0 truncate" title={head.short}>
                  {head.short}
                </code>
                <span className="quiet shrink-0">{head.first && `${head.first} – ${head.last}`}</span>
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
