/** One step: what closes it, who does it, by when, and what was noted. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";

import { currentOf, patch, problemOf } from "../../api/client";
import { suggestedQuery } from "../../api/queries";
import type { Step } from "../../api/types";
import { Collisions } from "../../components/Collisions";
import { useToast } from "../../components/Toasts";
import { day, minutes } from "../../lib/format";
import { type Fields, merge } from "../../lib/merging";

type Field = "owner" | "due" | "note" | "spent";
const WORDS: Record<Field, string> = { owner: "Owner", due: "Due", note: "Note", spent: "Minutes it took" };
const fieldsOf = (step: Step): Fields<Field> => ({ owner: step.owner, due: step.due ?? "", note: step.note, spent: step.spent > 0 ? String(Math.round(step.spent)) : "" });

export function StepEditor({ step }: { step: Step }) {
  const [base, setBase] = useState(step);
  const [mine, setMine] = useState(fieldsOf(step));
  const [collisions, setCollisions] = useState<Field[]>([]);
  const client = useQueryClient();
  const say = useToast();
  const told = (error: unknown) => say(problemOf(error), { bad: true });
  const send = (fields: Fields<Field>, version: number) =>
    patch<Step>(`/steps/${step.id}`, { ...fields, spent: Number(fields.spent) || 0, version }).then((fresh) => {
      setBase(fresh);
      setMine(fieldsOf(fresh));
      setCollisions([]);
      client.setQueryData(["step", String(fresh.id)], fresh);
      void client.invalidateQueries({ queryKey: ["work"] });
      void client.invalidateQueries({ queryKey: ["path", step.slug] });
      return fresh;
    });
  /** Somebody was faster: what does not collide is saved together with theirs, the rest is shown. */
  const together = (theirs: Step) => {
    const made = merge(fieldsOf(base), mine, fieldsOf(theirs));
    setBase(theirs);
    setMine(made.merged);
    setCollisions(made.collisions);
    if (made.collisions.length === 0) {
      send(made.merged, theirs.version)
        .then(() => say("The step is saved, together with what somebody else changed meanwhile."))
        .catch(told);
    }
  };
  const save = (event: FormEvent) => {
    event.preventDefault();
    const before = fieldsOf(base);
    send(mine, base.version)
      .then((fresh) => say("The step is saved.", { undo: () => void send(before, fresh.version).catch(told) }))
      .catch((error: unknown) => {
        const current = currentOf<Step>(error);
        if (current) together(current);
        else told(error);
      });
  };
  const { owner, due, note, spent } = mine;
  const set = (field: Field) => (value: string) => setMine({ ...mine, [field]: value });
  const theirs = fieldsOf(base);
  const changed = (Object.keys(WORDS) as Field[]).some((field) => mine[field] !== theirs[field]);
  return (
    <form onSubmit={save} className="flex flex-col gap-3 p-5 text-[14px]" aria-label={`Step ${step.title}`}>
      <div>
        <h2 className="text-[16px] leading-snug font-bold break-words">{step.title}</h2>
        <p className="quiet">
          {step.application} · {step.stage === 0 ? "before any version moves" : `stage ${step.stage}`} · {minutes(step.minutes)}
        </p>
        {step.begins && step.state !== "closed" && (
          <p className="quiet">
            Its stage is planned from {day(step.begins)} and live {day(step.live)} with 50 %.
          </p>
        )}
      </div>
      <p>
        <b>{step.waived ? "waived" : step.state}</b>
        {step.state === "closed" ? `: ${step.why}, ${day(step.closed_at)}` : `; closes on ${step.missing}`}
      </p>
      <label>
        Owner
        <input className="field mt-1 w-full" value={owner} onChange={(e) => set("owner")(e.target.value)} />
      </label>
      <label>
        Due
        <input type="date" className="field mt-1 w-full" value={due} onChange={(e) => set("due")(e.target.value)} />
      </label>
      <label>
        Note
        <textarea className="field mt-1 w-full" rows={4} value={note} onChange={(e) => set("note")(e.target.value)} />
      </label>
      <label>
        Minutes it took <span className="quiet">(estimated {minutes(step.minutes)}; the forecast learns from it)</span>
        <input type="number" min="0" max="600000" step="1" className="field mt-1 w-full" value={spent} onChange={(e) => set("spent")(e.target.value)} />
      </label>
      {step.state === "closed" && spent === "" && <Suggested step={step.id} take={set("spent")} />}
      <Collisions
        fields={collisions}
        words={WORDS}
        theirs={theirs}
        takeTheirs={(field) => {
          set(field)(theirs[field]);
          setCollisions(collisions.filter((f) => f !== field));
        }}
      />
      <div className="flex flex-wrap gap-2">
        <button type="submit" className="press press-main" disabled={!changed && collisions.length === 0}>
          Save
        </button>
        {step.state !== "closed" && !step.finding_key.startsWith("route:") && (
          <Link className="press" to={step.finding_key.startsWith("stage:") ? `/applications/${step.slug}/proof?stage=${step.stage}` : `/applications/${step.slug}/edits?scope=${step.stage === 0 ? "now" : step.stage}`}>
            {step.finding_key.startsWith("stage:") ? "Prove it" : "Carry it out"}
          </Link>
        )}
        {step.state !== "closed" && (
          <Link className="press" to={step.finding_key.startsWith("route:") ? `/applications/${step.slug}/crossing` : `/applications/${step.slug}?finding=${step.finding_key}`}>
            Its evidence
          </Link>
        )}
      </div>
    </form>
  );
}

/** What the commits of a closed step say of the time it took: taken only when somebody does. */
function Suggested({ step, take }: { step: number; take: (minutes: string) => void }) {
  const found = useQuery(suggestedQuery(step)).data;
  if (!found || found.why !== "") return null;
  return (
    <p className="quiet">
      {found.commits === 1 ? "Its one commit suggests" : `Its ${found.commits} commits suggest`} {minutes(found.minutes)}.{" "}
      <button type="button" className="underline decoration-dotted underline-offset-4" onClick={() => take(String(found.minutes))}>
        Take it
      </button>
    </p>
  );
}
