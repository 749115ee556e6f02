/** One step: what closes it, who does it, by when, and what was noted. */
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";

import { ApiError, patch } from "../../api/client";
import type { Step } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { day, minutes } from "../../lib/format";

export function StepEditor({ step }: { step: Step }) {
  const [owner, setOwner] = useState(step.owner);
  const [due, setDue] = useState(step.due ?? "");
  const [note, setNote] = useState(step.note);
  const client = useQueryClient();
  const say = useToast();
  const send = (change: Partial<Pick<Step, "owner" | "due" | "note">>) =>
    patch<Step>(`/steps/${step.id}`, change).then((fresh) => {
      client.setQueryData(["step", String(fresh.id)], fresh);
      void client.invalidateQueries({ queryKey: ["work"] });
      void client.invalidateQueries({ queryKey: ["path", step.slug] });
    });
  const save = (event: FormEvent) => {
    event.preventDefault();
    const before = { owner: step.owner, due: step.due ?? "", note: step.note };
    const undo = () => {
      setOwner(before.owner);
      setDue(before.due);
      setNote(before.note);
      void send(before);
    };
    send({ owner, due, note })
      .then(() => say("The step is saved.", { undo }))
      .catch((error: unknown) => say(error instanceof ApiError ? error.failure.problem : String(error), { bad: true }));
  };
  const changed = owner !== step.owner || due !== (step.due ?? "") || note !== step.note;
  return (
    <form onSubmit={save} className="flex flex-col gap-3 p-5 text-[14px]" aria-label={`Step ${step.title}`}>
      <div>
        <h2 className="text-[16px] leading-snug font-bold break-words">{step.title}</h2>
        <p className="quiet">
          {step.application} · {step.stage === 0 ? "before any version moves" : `stage ${step.stage}`} · {minutes(step.minutes)}
        </p>
      </div>
      <p>
        <b>{step.waived ? "waived" : step.state}</b>
        {step.state === "closed" ? `: ${step.why}, ${day(step.closed_at)}` : `; closes on ${step.missing}`}
      </p>
      <label>
        Owner
        <input className="field mt-1 w-full" value={owner} onChange={(e) => setOwner(e.target.value)} />
      </label>
      <label>
        Due
        <input type="date" className="field mt-1 w-full" value={due} onChange={(e) => setDue(e.target.value)} />
      </label>
      <label>
        Note
        <textarea className="field mt-1 w-full" rows={4} value={note} onChange={(e) => setNote(e.target.value)} />
      </label>
      <div className="flex gap-2">
        <button type="submit" className="press press-main" disabled={!changed}>
          Save
        </button>
        {step.state !== "closed" && (
          <Link className="press" to={`/applications/${step.slug}?finding=${step.finding_key}`}>
            Its evidence
          </Link>
        )}
      </div>
    </form>
  );
}
