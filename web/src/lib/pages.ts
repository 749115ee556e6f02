/** Rows of a long list, of which only the pages in sight are asked for. */
import { type QueryKey, useQueries, type UseQueryOptions } from "@tanstack/react-query";

import { PAGE } from "../api/queries";

/** Numbers of the pages that hold rows ``first`` to ``last``. */
export function pagesOf(first: number, last: number): number[] {
  const from = Math.floor(Math.max(first, 0) / PAGE);
  const to = Math.floor(Math.max(last, first, 0) / PAGE);
  return Array.from({ length: to - from + 1 }, (_, i) => from + i);
}

/** The row at a position, undefined while its page is on its way. */
export function usePages<Data extends { offset: number; rows: unknown[] }, Key extends QueryKey>(
  first: number,
  last: number,
  page: (n: number) => UseQueryOptions<Data, Error, Data, Key>,
): (at: number) => Data["rows"][number] | undefined {
  const held = useQueries({ queries: pagesOf(first, last).map(page) });
  return (at) => {
    for (const { data } of held) {
      const row = data && at >= data.offset ? data.rows[at - data.offset] : undefined;
      if (row) return row;
    }
    return undefined;
  };
}
