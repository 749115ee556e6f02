/** What can be done with the selected applications at once. */
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { call, currentOf, patch, post } from "../../api/client";
import { destinationsQuery } from "../../api/queries";
import type { Changed, Edited, Row } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { useCollision } from "../../components/useCollision";
import { useScans } from "../../components/useScans";
import { useTold } from "../../components/useTold";
import { plural } from "../../lib/format";
import { useRefresh } from "../../lib/stale";
import { colliding, type Field, LABELS, takenBack, wordsOf } from "./changes";

type Props = { slugs: string[]; seen: Row[]; clear: () => void };

export function SelectionBar({ slugs, seen, clear }: Props) {
  const [field, setField] = useState<Field>("owner");
  const [value, setValue] = useState("");
  const destinations = useQuery(destinationsQuery).data ?? [];
  const say = useToast();
  const collision = useCollision();
  const refresh = useRefresh();
  const { scan } = useScans();
  const told = useTold();

  const undo = (made: Changed) => () =>
    void Promise.all(takenBack(made.changes, field).map((body) => patch<Changed>("/applications", body)))
      .then(refresh)
      .catch(told);
  const send = (wanted: string[], versions: Record<string, number>) =>
    patch<Changed>("/applications", { applications: wanted, versions, [field]: field === "days_per_week" ? Number(value) : value })
      .then((made) => {
        say(`${LABELS[field]} set on ${plural(wanted.length, "application")}.`, { undo: undo(made) });
        refresh();
      })
      .catch((error: unknown) => {
        const current = currentOf<Edited[]>(error);
        if (current) together(wanted, versions, current);
        else told(error);
      });
  /** Somebody was faster: what they set elsewhere stays and ours is added; where it is the same field, one must choose. */
  const together = (wanted: string[], versions: Record<string, number>, current: Edited[]) => {
    const fresh = { ...versions, ...Object.fromEntries(current.map((now) => [now.slug, now.version])) };
    const theirs = colliding(seen, current, field, value);
    if (theirs.length === 0) return void send(wanted, fresh);
    const rest = wanted.filter((slug) => !theirs.some((now) => now.slug === slug));
    collision.ask({
      rows: theirs.map((now) => ({ what: now.name, theirs: wordsOf(now, field), mine: value })),
      keepMine: () => void send(wanted, fresh),
      keepTheirs: () => (rest.length > 0 ? void send(rest, fresh) : refresh()),
    });
  };
  const set = (event: FormEvent) => {
    event.preventDefault();
    void send(slugs, Object.fromEntries(seen.filter((row) => slugs.includes(row.slug)).map((row) => [row.slug, row.version])));
  };
  const takeOff = () =>
    Promise.all(slugs.map((slug) => call(`/applications/${slug}`, { method: "DELETE" })))
      .then(() => {
        clear();
        const back = () => void Promise.all(slugs.map((slug) => post(`/applications/${slug}/restore`, {}))).then(refresh);
        say(`${plural(slugs.length, "application")} taken off the Horizon; the history is kept.`, { undo: back });
      })
      .then(refresh)
      .catch(told);

  return (
    <>
      <form onSubmit={set} aria-label="Selected applications" className="foot-bar dialog rises fixed bottom-5 left-1/2 z-30 flex -translate-x-1/2 items-center gap-2 px-4 py-2">
        <b className="mr-2 whitespace-nowrap">{plural(slugs.length, "selected", "selected")}</b>
        <button type="button" className="press press-main" onClick={() => scan({ applications: slugs, text: () => `${plural(slugs.length, "application")} in the queue.` })}>
          Scan
        </button>
        <span className="quiet ml-3">set</span>
        <select className="field select select-sm w-36 text-[14px]" aria-label="What to set" value={field} onChange={(e) => setField(e.target.value as Field)}>
          {Object.entries(LABELS).map(([name, label]) => (
            <option key={name} value={name}>
              {label}
            </option>
          ))}
        </select>
        <input
          className="field w-56"
          aria-label="New value"
          required
          list={field === "destination" ? "known-destinations" : undefined}
          placeholder={field === "destination" ? "a name, or python@3.13 …" : field === "days_per_week" ? "e.g. 2" : ""}
          value={value}
          onChange={(e) => setValue(e.target.value)}
        />
        <datalist id="known-destinations">
          {destinations.map((d) => (
            <option key={d.name} value={d.name} />
          ))}
        </datalist>
        <button type="submit" className="press">
          Set
        </button>
        <button type="button" className="press ml-3" onClick={() => void takeOff()}>
          Take off
        </button>
        <button type="button" className="press press-quiet" onClick={clear}>
          Clear <kbd className="key">Esc</kbd>
        </button>
      </form>
      {collision.dialog}
    </>
  );
}
