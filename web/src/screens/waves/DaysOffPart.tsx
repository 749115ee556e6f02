/** Absences, holidays and freezes: added by hand, or read from a calendar. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";

import { post, remove } from "../../api/client";
import type { DaysOff, StoredTeam } from "../../api/types";
import { FileButton } from "../../components/FileButton";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { day } from "../../lib/format";

type Kind = DaysOff["kind"];
type Props = { days: DaysOff[]; teams: StoredTeam[]; today: string };

const MEANING: Record<Kind, string> = {
  absence: "somebody, or a whole team, is away",
  holiday: "a team, or everybody, does not work",
  freeze: "nothing goes live; work goes on",
};

export function DaysOffPart({ days, teams, today }: Props) {
  const client = useQueryClient();
  const toast = useToast();
  const told = useTold();
  const again = () => void client.invalidateQueries({ queryKey: ["waves"] });
  const drop = useMutation({
    mutationFn: (one: DaysOff) => remove<DaysOff>(`/days-off/${one.id}`),
    onSuccess: (was) => {
      again();
      const { kind, team, person, application, first, last, title } = was;
      toast(`${words(was)} was taken back.`, { undo: () => void post("/days-off", { kind, team, person, application, first, last, title }).then(again, told) });
    },
    onError: told,
  });
  const ahead = days.filter((one) => one.last >= today);
  return (
    <section aria-label="Days off">
      <h2 className="text-[17px] font-bold">Absences, holidays, freezes</h2>
      <AddDays teams={teams} today={today} again={again} />
      {ahead.length === 0 && <p className="quiet py-3">None lies ahead.</p>}
      <ul>
        {ahead.slice(0, 60).map((one) => (
          <li key={one.id} className="flex items-baseline gap-4 border-b py-1.5 text-[14px] hair">
            <span className="w-16 font-semibold">{one.kind}</span>
            <span className="min-w-0 grow truncate" title={words(one)}>
              {words(one)}
            </span>
            <span className="quiet whitespace-nowrap">{one.first === one.last ? day(one.first) : `${day(one.first)} to ${day(one.last)}`}</span>
            <button type="button" className="press press-quiet" aria-label={`Take back ${words(one)}`} onClick={() => drop.mutate(one)}>
              take back
            </button>
          </li>
        ))}
        {ahead.length > 60 && <li className="quiet py-2">and {ahead.length - 60} more</li>}
      </ul>
    </section>
  );
}

function words(one: DaysOff): string {
  const whom = one.person || one.application || one.team || "everybody";
  return one.title ? `${whom}: ${one.title}` : whom;
}

function AddDays({ teams, today, again }: { teams: StoredTeam[]; today: string; again: () => void }) {
  const [kind, setKind] = useState<Kind>("holiday");
  const [team, setTeam] = useState("");
  const toast = useToast();
  const told = useTold();
  const people = teams.find((one) => one.name === team)?.people ?? [];
  const add = useMutation({ mutationFn: (body: Record<string, string>) => post("/days-off", body), onSuccess: again, onError: told });
  const read = useMutation({
    mutationFn: async (chosen: File) => post<{ name: string; added: number; replaced: number }>("/days-off/calendar", { name: chosen.name, text: await chosen.text(), kind, team }),
    onSuccess: (made) => {
      again();
      toast(`${made.added} entries of ${made.name} were read${made.replaced ? `, in place of ${made.replaced} read before` : ""}.`);
    },
    onError: told,
  });
  const send = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const value = (name: string) => String(data.get(name) ?? "");
    add.mutate({ kind, team, person: kind === "absence" ? value("person") : "", first: value("first"), last: value("last") || value("first"), title: value("title") });
  };
  return (
    <form onSubmit={send} className="my-2 flex flex-wrap items-end gap-2 text-[12.5px]">
      <label className="flex flex-col">
        <span className="quiet">what</span>
        <select className="field select select-sm w-28 text-[14px]" value={kind} title={MEANING[kind]} onChange={(e) => setKind(e.target.value as Kind)}>
          <option>holiday</option>
          <option>absence</option>
          <option>freeze</option>
        </select>
      </label>
      <label className="flex flex-col">
        <span className="quiet">team</span>
        <select className="field select select-sm w-36 text-[14px]" value={team} required={kind === "absence"} onChange={(e) => setTeam(e.target.value)}>
          <option value="">everybody</option>
          {teams.map((one) => (
            <option key={one.name}>{one.name}</option>
          ))}
        </select>
      </label>
      {kind === "absence" && (
        <label className="flex flex-col">
          <span className="quiet">person</span>
          <select className="field select select-sm w-36 text-[14px]" name="person">
            <option value="">the whole team</option>
            {people.map((p) => (
              <option key={p.name}>{p.name}</option>
            ))}
          </select>
        </label>
      )}
      <label className="flex flex-col">
        <span className="quiet">from</span>
        <input className="field w-36" type="date" name="first" required min={today} />
      </label>
      <label className="flex flex-col">
        <span className="quiet">until</span>
        <input className="field w-36" type="date" name="last" min={today} />
      </label>
      <label className="flex flex-col">
        <span className="quiet">called</span>
        <input className="field w-32" name="title" maxLength={120} />
      </label>
      <button type="submit" className="press">
        Add
      </button>
      <FileButton what="Calendar file" accept=".ics,text/calendar" title="Whole days of an iCalendar file, as chosen here" busy={read.isPending} take={read.mutate}>
        Read a calendar
      </FileButton>
    </form>
  );
}
