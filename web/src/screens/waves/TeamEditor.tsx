/** Who is in one team: names, days a week, from when and until when. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { currentOf, put } from "../../api/client";
import type { StoredTeam } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";

type Person = { id: number; name: string; days: string; since: string; until: string };
type Props = { name: string; team: StoredTeam | undefined; close: () => void };

let numbered = 0;
const person = (name = "", days = "2", since = "", until = ""): Person => ({ id: (numbered += 1), name, days, since, until });

export function TeamEditor({ name: given, team, close }: Props) {
  const [name, setName] = useState(given);
  const [features, setFeatures] = useState(String(Math.round((team?.features ?? 0) * 100)));
  const [people, setPeople] = useState<Person[]>(() => (team?.people.length ? team.people.map((p) => person(p.name, String(p.days), p.since ?? "", p.until ?? "")) : [person()]));
  const client = useQueryClient();
  const toast = useToast();
  const told = useTold();
  const set = (id: number, change: Partial<Person>) => setPeople((all) => all.map((p) => (p.id === id ? { ...p, ...change } : p)));
  const save = useMutation({
    mutationFn: () =>
      put<StoredTeam>(`/teams?name=${encodeURIComponent(name.trim())}`, {
        people: people.filter((p) => p.name.trim() !== "").map((p) => ({ name: p.name, days: Number(p.days), since: p.since || null, until: p.until || null })),
        features: Number(features) / 100,
        version: team?.version ?? 0,
      }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["waves"] });
      toast(`${name} is planned with these people.`);
      close();
    },
    onError: (error) => {
      if (currentOf(error) !== undefined) void client.invalidateQueries({ queryKey: ["waves"] });
      told(error);
    },
  });
  return (
    <Dialog title={given === "" ? "Add a team" : `Who is in ${given}`} close={close} wide>
      <form
        className="flex flex-col gap-3 text-[14px]"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {given === "" && (
          <label className="flex flex-col gap-1">
            <b>Name</b>
            <input className="field w-64" value={name} required maxLength={120} onChange={(e) => setName(e.target.value)} />
          </label>
        )}
        <table>
          <thead>
            <tr className="quiet text-left text-[12.5px]">
              <th className="font-normal">person</th>
              <th className="font-normal">days a week</th>
              <th className="font-normal">from</th>
              <th className="font-normal">until</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {people.map((p, n) => (
              <tr key={p.id}>
                <td className="pr-2 pb-1">
                  <input className="field w-44" aria-label={`Name of person ${n + 1}`} value={p.name} maxLength={120} onChange={(e) => set(p.id, { name: e.target.value })} />
                </td>
                <td className="pr-2 pb-1">
                  <input className="field w-20" type="number" min="0" max="7" step="any" required aria-label={`Days a week of person ${n + 1}`} value={p.days} onChange={(e) => set(p.id, { days: e.target.value })} />
                </td>
                <td className="pr-2 pb-1">
                  <input className="field w-36" type="date" aria-label={`From, person ${n + 1}`} value={p.since} onChange={(e) => set(p.id, { since: e.target.value })} />
                </td>
                <td className="pr-2 pb-1">
                  <input className="field w-36" type="date" aria-label={`Until, person ${n + 1}`} value={p.until} onChange={(e) => set(p.id, { until: e.target.value })} />
                </td>
                <td>
                  <button type="button" className="press press-quiet" aria-label={`Take person ${n + 1} out`} onClick={() => setPeople((all) => all.filter((q) => q.id !== p.id))}>
                    take out
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <div className="flex items-center gap-4">
          <button type="button" className="press" onClick={() => setPeople((all) => [...all, person()])}>
            One more person
          </button>
          <label className="flex items-center gap-2">
            Features take
            <input className="field w-20" type="number" min="0" max="95" step="any" value={features} onChange={(e) => setFeatures(e.target.value)} />% of these days
          </label>
        </div>
        <button type="submit" className="press press-main self-start" disabled={save.isPending}>
          Save
        </button>
      </form>
    </Dialog>
  );
}
