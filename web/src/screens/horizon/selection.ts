/** A selection over an ordered list: single, range with Shift, all. */
import { useCallback, useRef, useState } from "react";

export function useSelection(order: string[]) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const anchor = useRef<string | null>(null);
  const toggle = useCallback(
    (slug: string, range: boolean) => {
      const from = anchor.current === null ? -1 : order.indexOf(anchor.current);
      const to = order.indexOf(slug);
      setChosen((before) => {
        const next = new Set(before);
        if (range && from >= 0) {
          for (const each of order.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(each);
        } else if (!next.delete(slug)) next.add(slug);
        return next;
      });
      anchor.current = slug;
    },
    [order],
  );
  const slugs = order.filter((slug) => chosen.has(slug));
  const all = order.length > 0 && slugs.length === order.length;
  return {
    slugs,
    all,
    toggle,
    has: (slug: string) => chosen.has(slug),
    clear: () => setChosen(new Set()),
    toggleAll: () => setChosen(all ? new Set() : new Set(order)),
  };
}
