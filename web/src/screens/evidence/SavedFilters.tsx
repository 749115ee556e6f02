/** Filters kept under a name, for everyone who uses this Yoake. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";

import { currentOf, problemOf, put, remove } from "../../api/client";
import { keptQuery } from "../../api/queries";
import type { KeptFilter } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { useCollision } from "../../components/useCollision";

const SCREEN = "evidence";
const OWN = ["finding", "at"]; // where one is, not what one looks for

export function SavedFilters() {
  const [params, setParams] = useSearchParams();
  const kept = useQuery(keptQuery(SCREEN)).data ?? [];
  const [naming, setNaming] = useState<string | null>(null);
  const client = useQueryClient();
  const toast = useToast();
  const again = () => client.invalidateQueries({ queryKey: ["kept", SCREEN] });
  const query = plain(params);
  const here = kept.find((view) => view.query === query);
  const collision = useCollision();
  const told = (error: unknown) => toast(problemOf(error), { bad: true });
  /** The name is taken, perhaps since a moment ago: what stands under it is shown before it is written over. */
  const taken = (held: KeptFilter, name: string) =>
    collision.ask({ title: "A filter of this name is saved already", words: "Saving yours writes over it, for everyone.", rows: [{ what: name, theirs: `${held.query || "everything"} (${held.by})`, mine: query }], keepMine: () => keep.mutate({ name, version: held.version }), keepTheirs: () => void again() });
  const keep = useMutation({
    mutationFn: ({ name, version }: { name: string; version: number }) => put<KeptFilter>(`/views/${SCREEN}`, { name, query, version }),
    onSuccess: () => {
      setNaming(null);
      void again();
    },
    onError: (error, { name }) => {
      const held = currentOf<KeptFilter>(error);
      if (held) taken(held, name);
      else told(error);
    },
  });
  const forget = useMutation({
    mutationFn: (view: KeptFilter) => remove<KeptFilter>(`/views/${SCREEN}/${encodeURIComponent(view.name)}?version=${view.version}`),
    onSuccess: (view) => {
      const undo = () => void put(`/views/${SCREEN}`, { name: view.name, query: view.query, version: 0 }).then(again).catch(told);
      toast(`The filter “${view.name}” is forgotten.`, { undo });
      void again();
    },
    onError: (error) => {
      told(error);
      void again();
    },
  });
  if (naming !== null) {
    return (
      <form
        className="flex items-center gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          const name = naming.trim();
          const held = kept.find((view) => view.name === name);
          if (held) taken(held, name);
          else if (name) keep.mutate({ name, version: 0 });
        }}
      >
        <input autoFocus aria-label="Name of the filter" className="field w-40" value={naming} maxLength={80} onChange={(e) => setNaming(e.target.value)} onKeyDown={(e) => e.key === "Escape" && setNaming(null)} />
        <button type="submit" className="press">
          Save
        </button>
        {collision.dialog}
      </form>
    );
  }
  return (
    <div className="flex items-center gap-1">
      {kept.length > 0 && (
        <select aria-label="Saved filters" className="field w-40" value={here?.name ?? ""} onChange={(e) => setParams(new URLSearchParams(kept.find((v) => v.name === e.target.value)?.query ?? ""))}>
          <option value="">saved filters</option>
          {kept.map((view) => (
            <option key={view.name}>{view.name}</option>
          ))}
        </select>
      )}
      {here ? (
        <button type="button" className="press press-quiet" onClick={() => forget.mutate(here)}>
          forget
        </button>
      ) : (
        query && (
          <button type="button" className="press press-quiet" title="Save this filter under a name" onClick={() => setNaming("")}>
            save this filter
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
