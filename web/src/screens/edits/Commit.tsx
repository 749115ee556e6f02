/** Where the chosen changes go: commits on a branch of their own, or a patch. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { API } from "../../api/address";
import { post } from "../../api/client";
import type { EditsView } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { plural } from "../../lib/format";

type Props = { slug: string; edits: EditsView; keys: string[]; left: string[]; files: number };

export function Commit({ slug, edits, keys, left, files }: Props) {
  const [branch, setBranch] = useState(edits.branch);
  const client = useQueryClient();
  const toast = useToast();
  const base = `/applications/${encodeURIComponent(slug)}/edits`;
  const commit = useMutation({
    mutationFn: () => post<{ job: number }>(`${base}/branch`, { scope: edits.scope, branch: branch.trim(), keys, left_out: left }),
    onSuccess: () => {
      toast(`${plural(keys.length, "step")} being checked once more and committed on ${branch.trim()}.`);
      void client.invalidateQueries({ queryKey: ["edits", slug] });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  const query = left.map((path) => `left_out=${encodeURIComponent(path)}`).join("&");
  return (
    <form
      className="flex flex-wrap items-center gap-3 border-b px-3 py-2 text-[14px] hair"
      onSubmit={(event) => {
        event.preventDefault();
        commit.mutate();
      }}
    >
      {edits.branches ? (
        <>
          <label className="flex items-center gap-2">
            <span className="quiet">new branch</span>
            <input className="field code h-7 w-64 text-[13px]" value={branch} onChange={(e) => setBranch(e.target.value)} />
          </label>
          <button type="submit" className="press press-main" disabled={!branch.trim() || files === 0 || keys.length === 0 || commit.isPending || edits.state === "working"} title="One commit a step; your work tree, index and HEAD stay as they are">
            Commit {plural(keys.length, "step")}
          </button>
        </>
      ) : (
        <span className="quiet text-[13px]">A branch is made in a repository on this machine; this source is none.</span>
      )}
      {keys.length === edits.steps.length && (
        <a className="underline" href={`${API}${base}/patch${query ? `?${query}` : ""}`} download>
          Download as a patch
        </a>
      )}
    </form>
  );
}
