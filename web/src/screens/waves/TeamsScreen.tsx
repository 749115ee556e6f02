/** Who can work on what? Teams with their people, absences, holidays and freezes. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { daysOffQuery, teamsQuery, wavesQuery } from "../../api/queries";
import { remove } from "../../api/client";
import type { StoredTeam } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { plural } from "../../lib/format";
import { DaysOffPart } from "./DaysOffPart";
import { TeamEditor } from "./TeamEditor";
import { WavesNav } from "./WavesNav";

export default function TeamsScreen() {
  const teams = useQuery(teamsQuery);
  const waves = useQuery(wavesQuery);
  const days = useQuery(daysOffQuery);
  const failed = [teams, waves, days].find((q) => q.isError);
  if (failed?.error) return <Failed error={failed.error} again={() => void failed.refetch()} />;
  if (!teams.data || !waves.data || !days.data) return <Waiting what="the teams" />;
  return (
    <div className="page">
      <Heading held={teams.data} assumed={waves.data.teams.filter((t) => t.assumed).map((t) => t.name)} />
      <div className="mt-1 mb-4">
        <WavesNav />
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-10">
        <Teams held={teams.data} named={waves.data.teams.filter((t) => !t.vendor).map((t) => ({ name: t.name, days: t.days, assumed: t.assumed }))} />
        <DaysOffPart days={days.data} teams={teams.data} today={waves.data.today} />
      </div>
    </div>
  );
}

function Heading({ held, assumed }: { held: StoredTeam[]; assumed: string[] }) {
  const people = held.reduce((n, team) => n + team.people.length, 0);
  const title = held.length === 0 ? "Nobody said yet who is in the teams." : `${plural(people, "person", "people")} in ${plural(held.length, "team")}.`;
  return (
    <>
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">{title}</h1>
      {assumed.length > 0 && <p className="quiet">For {assumed.slice(0, 5).join(", ")}{assumed.length > 5 && ` and ${assumed.length - 5} more`} each application is assumed to have its own days a week.</p>}
    </>
  );
}

type Named = { name: string; days: number; assumed: boolean };

function Teams({ held, named }: { held: StoredTeam[]; named: Named[] }) {
  const [editing, setEditing] = useState<string | null>(null);
  const client = useQueryClient();
  const toast = useToast();
  const told = useTold();
  const names = useMemo(() => [...new Set([...held.map((t) => t.name), ...named.map((t) => t.name)])].sort(), [held, named]);
  const forget = useMutation({
    mutationFn: (team: StoredTeam) => remove(`/teams?name=${encodeURIComponent(team.name)}&version=${team.version}`),
    onSuccess: (_done, team) => {
      void client.invalidateQueries({ queryKey: ["waves"] });
      toast(`Who is in ${team.name} was forgotten: each of its applications has its own days again.`);
    },
    onError: told,
  });
  return (
    <section aria-label="Teams">
      <div className="flex items-baseline justify-between">
        <h2 className="text-[17px] font-bold">Teams</h2>
        <button type="button" className="press" onClick={() => setEditing("")}>
          Add a team
        </button>
      </div>
      <ul>
        {names.map((name) => {
          const team = held.find((t) => t.name === name);
          const assumed = named.find((t) => t.name === name);
          return (
            <li key={name} className="flex items-start gap-4 border-b py-2 hair">
              <div className="min-w-0 grow">
                <b className="block truncate">{name}</b>
                <span className="quiet text-[13.5px]">
                  {team && team.people.length > 0 ? team.people.map((p) => `${p.name} ${p.days} d${p.since ? ` from ${p.since}` : ""}${p.until ? ` until ${p.until}` : ""}`).join(", ") : `assumed: ${(assumed?.days ?? 0).toFixed(1)} d a week`}
                  {team && team.features > 0 && `; features take ${Math.round(team.features * 100)} %`}
                </span>
              </div>
              <button type="button" className="press" onClick={() => setEditing(name)}>
                {team ? "Change" : "Say who"}
              </button>
              {team && (
                <button type="button" className="press press-quiet" onClick={() => forget.mutate(team)}>
                  Forget
                </button>
              )}
            </li>
          );
        })}
      </ul>
      {editing !== null && <TeamEditor name={editing} team={held.find((t) => t.name === editing)} close={() => setEditing(null)} />}
    </section>
  );
}
