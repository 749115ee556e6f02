/** Branches with edits that are not merged yet: a commit a step, each can be undone by another on top. */
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { post } from "../../api/client";
import type { EditsView } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { plural } from "../../lib/format";

type Asked = { branch: string; commit: string };

export function Made({ slug, edits }: { slug: string; edits: EditsView }) {
  const client = useQueryClient();
  const toast = useToast();
  const undo = useMutation({
    mutationFn: (asked: Asked) => post<{ commit: string }>(`/applications/${encodeURIComponent(slug)}/edits/undo`, asked),
    onSuccess: (done, asked) => toast(`${asked.commit.slice(0, 10)} is undone by ${done.commit.slice(0, 10)}.`),
    onError: (error) => toast(error.message, { bad: true }),
    onSettled: () => client.invalidateQueries({ queryKey: ["edits", slug] }),
  });
  if (edits.made.length === 0) return null;
  return (
    <section aria-label="On branches" className="mt-4 border-t pt-3 hair">
      <h2 className="mb-1 text-[15.5px] font-bold">On {plural(edits.made.length, "branch", "branches")}</h2>
      {edits.made.map((branch) => (
        <details key={branch.name} className="text-[13.5px]">
          <summary className="cursor-pointer [overflow-wrap:anywhere]">
            <code>{branch.name}</code> <span className="quiet">{plural(branch.commits.length, "commit")}</span>
          </summary>
          <ul className="mb-2">
            {branch.commits.map((made) => (
              <li key={made.commit} className="flex items-baseline gap-2 py-0.5">
                <code className="quiet text-[12px]">{made.commit.slice(0, 7)}</code>
                <span className="min-w-0 grow [overflow-wrap:anywhere]">{made.title}</span>
                <button type="button" className="underline" disabled={undo.isPending} aria-label={`Undo ${made.title}`} onClick={() => undo.mutate({ branch: branch.name, commit: made.commit })}>
                  Undo
                </button>
              </li>
            ))}
          </ul>
        </details>
      ))}
    </section>
  );
}
