/** One change more: choose what is otherwise, fill in its few fields. */
import { type FormEvent, useState } from "react";

import type { WavesView, WhatIf } from "../../api/types";
import { added, type Kind } from "./changes";

const KINDS: [Kind, string][] = [
  ["capacity", "one more person, or other days"],
  ["features", "another share for features"],
  ["first", "an application first"],
  ["drop", "an application dropped"],
  ["bought", "an application bought in"],
  ["strategy", "another strategy"],
  ["destination", "another destination"],
  ["dates", "another support end"],
  ["freezes", "a freeze"],
];

type Field = { name: string; label: string; type: "text" | "number" | "date"; list?: "teams" | "applications"; optional?: boolean; placeholder?: string };

const FIELDS: Partial<Record<Kind, Field[]>> = {
  capacity: [
    { name: "team", label: "Team", type: "text", list: "teams" },
    { name: "person", label: "Person", type: "text", optional: true, placeholder: "one more person" },
    { name: "days", label: "Days a week", type: "number" },
    { name: "since", label: "From", type: "date", optional: true },
  ],
  features: [
    { name: "team", label: "Team", type: "text", list: "teams" },
    { name: "share", label: "Share, 0 to 0.95", type: "number" },
  ],
  first: [{ name: "", label: "Application", type: "text", list: "applications" }],
  drop: [{ name: "", label: "Application", type: "text", list: "applications" }],
  bought: [
    { name: "name", label: "Name", type: "text" },
    { name: "team", label: "Team", type: "text", list: "teams" },
    { name: "days", label: "Days of work", type: "number" },
    { name: "end", label: "Support ends", type: "date", optional: true },
  ],
  strategy: [
    { name: "application", label: "Application", type: "text", list: "applications" },
    { name: "choice", label: "Way, as Path calls it", type: "text", placeholder: "stages, danger, retire …" },
  ],
  destination: [
    { name: "application", label: "Application", type: "text", list: "applications" },
    { name: "destination", label: "Destination", type: "text" },
  ],
  dates: [
    { name: "coordinate", label: "Coordinate", type: "text", placeholder: "python" },
    { name: "line", label: "Line", type: "text", placeholder: "3.10" },
    { name: "end", label: "Supported until", type: "date" },
  ],
  freezes: [
    { name: "first", label: "From", type: "date" },
    { name: "last", label: "Until", type: "date" },
    { name: "title", label: "Why", type: "text", optional: true, placeholder: "freeze" },
  ],
};

type Props = { view: WavesView; changes: WhatIf; setChanges: (changes: WhatIf) => void };

export function AddChange({ view, changes, setChanges }: Props) {
  const [kind, setKind] = useState<Kind>("capacity");
  const fields = FIELDS[kind] ?? [];
  const add = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const value: Record<string, string | number> = {};
    for (const field of fields) {
      const said = String(data.get(field.name || "slug") ?? "").trim();
      if (said !== "") value[field.name] = field.type === "number" ? Number(said) : said;
    }
    setChanges(added(changes, kind, "" in value ? String(value[""]) : value));
    event.currentTarget.reset();
  };
  const applications = [...new Set(view.teams.flatMap((team) => team.stages.map((bar) => bar.application)))].sort();
  return (
    <form onSubmit={add} className="flex flex-wrap items-end gap-2">
      <label className="flex flex-col text-[12.5px]">
        <span className="quiet">change</span>
        <select className="field select select-sm w-64 text-[14px]" value={kind} onChange={(e) => setKind(e.target.value as Kind)}>
          {KINDS.map(([key, word]) => (
            <option key={key} value={key}>
              {word}
            </option>
          ))}
        </select>
      </label>
      {fields.map((field) => (
        <label key={kind + field.name} className="flex flex-col text-[12.5px]">
          <span className="quiet">{field.label}</span>
          <input
            className={`field ${field.type === "number" ? "w-20" : "w-36"}`}
            name={field.name || "slug"}
            type={field.type}
            step={field.type === "number" ? "any" : undefined}
            min={field.type === "number" ? 0 : undefined}
            required={!field.optional}
            list={field.list && `what-if-${field.list}`}
            placeholder={field.placeholder}
          />
        </label>
      ))}
      <button type="submit" className="press">
        Add
      </button>
      <datalist id="what-if-teams">{view.teams.map((team) => <option key={team.name} value={team.name} />)}</datalist>
      <datalist id="what-if-applications">{applications.map((slug) => <option key={slug} value={slug} />)}</datalist>
    </form>
  );
}
