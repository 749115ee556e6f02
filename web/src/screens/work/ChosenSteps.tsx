/** Several steps at once: one owner, one date. */
import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { patch, problemOf } from "../../api/client";
import type { Step, StepsChanged } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { plural } from "../../lib/format";

export function ChosenSteps({ steps, clear }: { steps: Step[]; clear: () => void }) {
  const [owner, setOwner] = useState("");
  const [due, setDue] = useState("");
  const [working, setWorking] = useState(false);
  const client = useQueryClient();
  const say = useToast();
  const save = (event: FormEvent) => {
    event.preventDefault();
    setWorking(true);
    const changes = { ...(owner.trim() ? { owner: owner.trim() } : {}), ...(due ? { due } : {}) };
    patch<StepsChanged>("/steps", { steps: steps.map(({ id, version }) => ({ id, version })), ...changes })
      .then(({ changed, outdated }) => {
        say(outdated.length === 0 ? `${plural(changed, "step is", "steps are")} saved.` : `${plural(changed, "step is", "steps are")} saved; ${plural(outdated.length, "other was", "others were")} changed by somebody else meanwhile and left alone.`, { bad: outdated.length > 0 });
        clear();
        void client.invalidateQueries({ queryKey: ["work"] });
        void client.invalidateQueries({ queryKey: ["step"] });
      })
      .catch((error: unknown) => say(problemOf(error), { bad: true }))
      .finally(() => setWorking(false));
  };
  return (
    <form onSubmit={save} aria-label="Chosen steps" className="flex items-center gap-4 border-t px-[22px] py-2 text-[14px] hair sheet">
      <b>{plural(steps.length, "step")} chosen</b>
      <label className="flex items-center gap-2">
        Owner <input className="field w-40" value={owner} onChange={(e) => setOwner(e.target.value)} />
      </label>
      <label className="flex items-center gap-2">
        Due <input type="date" className="field" value={due} onChange={(e) => setDue(e.target.value)} />
      </label>
      <button type="submit" className="press press-main" disabled={working || (!owner.trim() && !due)}>
        Save
      </button>
      <button type="button" className="press" onClick={clear}>
        Choose none
      </button>
    </form>
  );
}
