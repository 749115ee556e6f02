/** Filters kept under a name, for everyone who uses this Yoake. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import { put, remove } from "../../api/client";
import { keptQuery } from "../../api/queries";
import { useToast } from "../../components/Toasts";

const SCREEN = "evidence";
const OWN = ["finding", "at"]; // where one is, not what one looks for

export function KeptFilters() {
  const [params, setParams] = useSearchParams();
  const kept = useQuery(keptQuery(SCREEN)).data ?? [];
  const [naming, setNaming] = useState<string | null>(null);
  const client = useQueryClient();
  const toast = useToast();
  const again = () => client.invalidateQueries({ queryKey: ["kept", SCREEN] });
  const query = plain(params);
  const here = kept.find((view) => view.query === query);
  const keep = useMutation({
    mutationFn: (name: string) => put(`/views/${SCREEN}`, { name, query }),
    onSuccess: () => {
      setNaming(null);
      void again();
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  const forget = useMutation({ mutationFn: (name: string) => remove(`/views/${SCREEN}/${encodeURIComponent(name)}`), onSuccess: again });
  if (naming !== null) {
    return (
      <form
        className="flex items-center gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          if (naming.trim()) keep.mutate(naming.trim());
        }}
      >
        <input autoFocus aria-label="Name of the filter" className="field w-40" value={naming} maxLength={80} onChange={(e) => setNaming(e.target.value)} onKeyDown={(e) => e.key === "Escape" && setNaming(null)} />
        <button type="submit" className="press">
          Keep
        </button>
      </form>
    );
  }
  return (
    <div className="flex items-center gap-1">
      {kept.length > 0 && (
        <select aria-label="Kept filters" className="field w-40" value={here?.name ?? ""} onChange={(e) => setParams(new URLSearchParams(kept.find((v) => v.name === e.target.value)?.query ?? ""))}>
          <option value="">kept filters</option>
          {kept.map((view) => (
            <option key={view.name}>{view.name}</option>
          ))}
        </select>
      )}
      {here ? (
        <button type="button" className="press press-quiet" onClick={() => forget.mutate(here.name)}>
          forget
        </button>
      ) : (
        query && (
          <button type="button" className="press press-quiet" title="Keep this filter under a name" aria-label="Keep this filter" onClick={() => setNaming("")}>
            keep
          </button>
        )
      )}
    </div>
  );
}

function plain(params: URLSearchParams): string {
  const left = new URLSearchParams(params);
  for (const name of OWN) left.delete(name);
  left.sort();
  return left.toString();
}
