/** Begin to move an application piece by piece. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { post } from "../../api/client";
import type { CrossingView } from "../../api/types";
import { useTold } from "../../components/useTold";

export function BeginForm({ slug, crossing }: { slug: string; crossing: CrossingView }) {
  const client = useQueryClient();
  const told = useTold();
  const [side, setSide] = useState("");
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const begin = useMutation({
    mutationFn: () => post<{ job: number }>(`/applications/${encodeURIComponent(slug)}/crossing`, { new: side, old_address: old, new_address: fresh }),
    onError: told,
    onSettled: () => void client.invalidateQueries({ queryKey: ["crossing", slug] }),
  });
  return (
    <form
      aria-label="Begin the crossing"
      className="mx-auto max-w-xl px-6 py-10"
      onSubmit={(event) => {
        event.preventDefault();
        begin.mutate();
      }}
    >
      <h2 className="mb-1 text-lg font-bold">Move it piece by piece</h2>
      <p className="quiet mb-4">Old and new run side by side behind a gateway; routes move one by one, on evidence. The routes are read from the code of both sides; nothing is changed.</p>
      {crossing.told && <p className="mb-4 text-[14.5px] font-semibold">{crossing.told}</p>}
      <label className="mb-3 block text-[14px]">
        <span className="mb-1 block font-semibold">The new side</span>
        <select className="field w-full" value={side} onChange={(event) => setSide(event.target.value)}>
          <option value="">not taken in yet</option>
          {crossing.sides.map((other) => (
            <option key={other.slug} value={other.slug}>
              {other.name}
            </option>
          ))}
        </select>
      </label>
      <div className="mb-4 grid grid-cols-2 gap-3 text-[14px]">
        <label>
          <span className="mb-1 block font-semibold">Where the old side answers</span>
          <input className="field w-full" placeholder="http://127.0.0.1:8000" value={old} onChange={(event) => setOld(event.target.value)} required />
        </label>
        <label>
          <span className="mb-1 block font-semibold">Where the new side answers</span>
          <input className="field w-full" placeholder="http://127.0.0.1:8001" value={fresh} onChange={(event) => setFresh(event.target.value)} required />
        </label>
      </div>
      <button type="submit" className="press press-main" disabled={begin.isPending}>
        Begin
      </button>
    </form>
  );
}
