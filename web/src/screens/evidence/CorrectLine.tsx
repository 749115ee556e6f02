/** One press to say what today's line really is. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { ApiError, put } from "../../api/client";
import { knowledgeQuery } from "../../api/queries";
import type { Row } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { useToast } from "../../components/Toasts";

type Props = { slug: string; line: Row["today"][number] };

export function CorrectLine({ slug, line }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="press press-quiet underline" title={`Say which line of ${line.name} it stands on`} onClick={() => setOpen(true)}>
        correct
      </button>
      {open && <Asking slug={slug} line={line} close={() => setOpen(false)} />}
    </>
  );
}

function Asking({ slug, line, close }: Props & { close: () => void }) {
  const known = useQuery(knowledgeQuery).data?.find((c) => c.coordinate === line.coordinate);
  const [chosen, setChosen] = useState(line.line);
  const client = useQueryClient();
  const say = useToast();
  const send = (value: string) =>
    put(`/applications/${slug}/today`, { coordinate: known?.short ?? line.coordinate, line: value })
      .then(() => {
        close();
        say(value ? `${line.name} ${value}, as you say; scanning again.` : "As the files say; scanning again.");
      })
      .then(() => client.invalidateQueries())
      .catch((error: unknown) => say(error instanceof ApiError ? error.failure.problem : String(error), { bad: true }));
  return (
    <Dialog title={`${line.name} today`} close={close}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event: FormEvent) => {
          event.preventDefault();
          void send(chosen);
        }}
      >
        <p className="quiet text-[13.5px]">What you say wins over everything that is read. The application is scanned again from there.</p>
        <label>
          It stands on
          <select className="field select select-sm mt-1 w-full text-[14px]" value={chosen} onChange={(e) => setChosen(e.target.value)}>
            {(known?.lines ?? [line]).map((each) => (
              <option key={each.line}>{each.line}</option>
            ))}
          </select>
        </label>
        <div className="flex gap-2">
          <button type="submit" className="press press-main">
            Set
          </button>
          {line.how === "said" && (
            <button type="button" className="press" onClick={() => void send("")}>
              Back to what the files say
            </button>
          )}
        </div>
      </form>
    </Dialog>
  );
}
