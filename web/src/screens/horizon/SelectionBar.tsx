/** What can be done with the selected applications at once. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { ApiError, call, patch, post } from "../../api/client";
import { destinationsQuery } from "../../api/queries";
import type { JobsAsked } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { plural } from "../../lib/format";

type Props = { slugs: string[]; clear: () => void };
type Field = "owner" | "team" | "destination" | "days_per_week";
const LABELS: Record<Field, string> = { owner: "owner", team: "team", destination: "destination", days_per_week: "days a week" };

export function SelectionBar({ slugs, clear }: Props) {
  const [field, setField] = useState<Field>("owner");
  const [value, setValue] = useState("");
  const destinations = useQuery(destinationsQuery).data ?? [];
  const client = useQueryClient();
  const say = useToast();
  const refresh = () => void client.invalidateQueries();
  const told = (error: unknown) => say(error instanceof ApiError ? error.failure.problem : String(error), { bad: true });

  const set = (event: FormEvent) => {
    event.preventDefault();
    const sent = field === "days_per_week" ? Number(value) : value;
    patch<JobsAsked>("/applications", { applications: slugs, [field]: sent })
      .then(() => say(`${LABELS[field]} set on ${plural(slugs.length, "application")}.`))
      .then(refresh)
      .catch(told);
  };
  const scan = () =>
    post<JobsAsked>("/scans", { applications: slugs })
      .then(() => say(`${plural(slugs.length, "application")} in the queue.`))
      .then(refresh)
      .catch(told);
  const takeOff = () =>
    Promise.all(slugs.map((slug) => call(`/applications/${slug}`, { method: "DELETE" })))
      .then(() => {
        clear();
        const undo = () => void Promise.all(slugs.map((slug) => post(`/applications/${slug}/restore`, {}))).then(refresh);
        say(`${plural(slugs.length, "application")} taken off the Horizon; the history is kept.`, { undo });
      })
      .then(refresh)
      .catch(told);

  return (
    <form onSubmit={set} aria-label="Selected applications" className="dialog rises fixed bottom-5 left-1/2 z-30 flex -translate-x-1/2 items-center gap-2 px-4 py-2">
      <b className="mr-2">{plural(slugs.length, "selected", "selected")}</b>
      <button type="button" className="press press-main" onClick={() => void scan()}>
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
  );
}
