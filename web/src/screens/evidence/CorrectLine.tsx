/** One press to say what today's line really is. */
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { currentOf, put } from "../../api/client";
import { coordinateQuery } from "../../api/queries";
import type { Row, SaidLine } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { useToast } from "../../components/Toasts";
import { useCollision } from "../../components/useCollision";
import { useTold } from "../../components/useTold";
import { shortOf } from "../../lib/coordinates";
import { useRefresh } from "../../lib/stale";

type Props = { application: Row; line: Row["today"][number] };

export function CorrectLine({ application, line }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" className="press press-quiet underline" title={`Say which line of ${line.name} it stands on`} onClick={() => setOpen(true)}>
        correct
      </button>
      {open && <Asking application={application} line={line} close={() => setOpen(false)} />}
    </>
  );
}

function Asking({ application, line, close }: Props & { close: () => void }) {
  const known = useQuery(coordinateQuery(shortOf(line.coordinate))).data;
  const [chosen, setChosen] = useState(line.line);
  const refresh = useRefresh();
  const say = useToast();
  const collision = useCollision();
  const told = useTold();
  const set = (value: string, version: number) =>
    put<SaidLine>(`/applications/${application.slug}/today`, { coordinate: known?.short ?? line.coordinate, line: value, version }).then((before) => {
      refresh();
      return before;
    });
  const send = (value: string, version: number): Promise<void> =>
    set(value, version)
      .then((before) => {
        close();
        const undo = () => void set(before.line, before.version).catch(told);
        say(value ? `${line.name} ${value}, as you say; scanning again.` : "As the files say; scanning again.", { undo });
      })
      .catch((error: unknown) => {
        const current = currentOf<SaidLine>(error);
        if (!current) return told(error);
        if (current.line === (line.how === "said" ? line.line : "")) return void send(value, current.version); // something else was changed
        const words = (text: string) => text || "as the files say";
        collision.ask({ rows: [{ what: `${line.name} today`, theirs: words(current.line), mine: words(value) }], keepMine: () => void send(value, current.version), keepTheirs: () => {
            refresh();
            close();
          } });
      });
  if (collision.dialog) return collision.dialog;
  return (
    <Dialog title={`${line.name} today`} close={close}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event: FormEvent) => {
          event.preventDefault();
          void send(chosen, application.version);
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
            <button type="button" className="press" onClick={() => void send("", application.version)}>
              Back to what the files say
            </button>
          )}
        </div>
      </form>
    </Dialog>
  );
}
