/** What if: changes to the plan, and what comes of them beside the plan there is, on one scale; kept under a name, or thrown away. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { post, problemOf, remove } from "../../api/client";
import { compareQuery, whatIfsQuery } from "../../api/queries";
import type { Comparison, KeptWhatIf, WavesView, WhatIf, WhatIfSide } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { day, figure, shortDay } from "../../lib/format";
import { AddChange } from "./AddChange";
import { EMPTY, lines, onScale, removed } from "./changes";
import { chance } from "./words";

type Props = { view: WavesView; kept: string; setKept: (kept: string) => void };

/** ``kept``: the number of a what-if that was kept, or “new”. */
export function WhatIfPanel({ view, kept, setKept }: Props) {
  const held = useQuery(whatIfsQuery);
  const one = held.data?.find((w) => String(w.id) === kept);
  if (kept !== "new" && held.isPending) return null;
  return <Panel key={one?.version ?? 0} view={view} one={one} others={held.data ?? []} setKept={setKept} />;
}

function Panel({ view, one, others, setKept }: { view: WavesView; one: KeptWhatIf | undefined; others: KeptWhatIf[]; setKept: (kept: string) => void }) {
  const [changes, setChanges] = useState<WhatIf>(one?.changes ?? EMPTY);
  const [name, setName] = useState(one?.name ?? "");
  const client = useQueryClient();
  const toast = useToast();
  const told = useTold();
  const said = lines(changes);
  const found = useQuery({ ...compareQuery(changes, view.mark), enabled: said.length > 0 });
  const keep = useMutation({
    mutationFn: () => post<KeptWhatIf>("/what-ifs", { name, changes }),
    onSuccess: (made) => {
      void client.invalidateQueries({ queryKey: ["waves", "what-ifs"] });
      setKept(String(made.id));
      toast(`Kept as “${made.name}”. The address of this page leads to it.`);
    },
    onError: told,
  });
  const drop = useMutation({
    mutationFn: async () => (one ? remove(`/what-ifs/${one.id}`) : undefined),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["waves", "what-ifs"] });
      setKept("");
    },
    onError: told,
  });
  return (
    <section aria-label="What if" className="foot-bar fixed inset-x-0 bottom-0 z-20 max-h-[50vh] overflow-y-auto border-t px-[22px] pt-3 pb-4 text-[14px]" style={{ background: "var(--sheet)", borderColor: "var(--line)" }}>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.5fr)_auto] gap-7">
        <div>
          <div className="mb-1 flex items-baseline gap-3">
            <h2 className="text-[17px] font-bold">What if</h2>
            {others.length > 0 && (
              <select className="cursor-pointer bg-transparent text-[13.5px]" aria-label="Kept what-ifs" value={one ? String(one.id) : "new"} onChange={(e) => setKept(e.target.value)}>
                <option value="new">a new one</option>
                {others.map((other) => (
                  <option key={other.id} value={other.id}>
                    {other.name}
                  </option>
                ))}
              </select>
            )}
          </div>
          <ul className="mb-2 space-y-0.5">
            {said.map((line) => (
              <li key={line.kind + String(line.index)} className="flex items-baseline justify-between gap-3">
                <span className="min-w-0 truncate" title={line.words}>
                  {line.words}
                </span>
                <button type="button" className="press-quiet text-[13px] whitespace-nowrap underline" aria-label={`Take out: ${line.words}`} onClick={() => setChanges(removed(changes, line))}>
                  take out
                </button>
              </li>
            ))}
          </ul>
          <AddChange view={view} changes={changes} setChanges={setChanges} />
        </div>
        <div>
          {said.length === 0 && <p className="quiet">Add a change: what comes of it stands here beside the plan there is.</p>}
          {found.isError && <p className="text-[var(--rose-text)]">{problemOf(found.error)}</p>}
          {found.isPending && said.length > 0 && <p className="quiet">Planning …</p>}
          {found.data && said.length > 0 && <Beside found={found.data} today={view.today} />}
        </div>
        <div className="flex w-44 flex-col gap-2">
          <input className="field w-full" aria-label="Name of the what-if" placeholder="name" value={name} maxLength={120} onChange={(e) => setName(e.target.value)} />
          <button type="button" className="press press-main" disabled={said.length === 0 || name.trim() === "" || keep.isPending} onClick={() => keep.mutate()}>
            Keep it
          </button>
          <button type="button" className="press" disabled={drop.isPending} onClick={() => drop.mutate()}>
            Throw away
          </button>
        </div>
      </div>
    </section>
  );
}

function Beside({ found, today }: { found: Comparison; today: string }) {
  const sides: [string, WhatIfSide, string][] = [
    ["as planned", found.present, "var(--dusk)"],
    ["what if", found.what_if, "var(--day)"],
  ];
  const at = onScale(today, sides.flatMap(([, side]) => [side.arrival.p50, side.arrival.p80]));
  return (
    <div>
      {sides.map(([word, side, colour]) => (
        <div key={word} className="mb-1 grid grid-cols-[76px_minmax(0,1fr)_286px] items-center gap-3">
          <span className="quiet text-right">{word}</span>
          <Track middle={at(side.arrival.p50)} spread={at(side.arrival.p80)} colour={colour} />
          <span className="whitespace-nowrap">
            <b>{side.at_risk === 0 ? "no end at risk" : `${side.at_risk} of ${side.ends} ends at risk`}</b>{" "}
            <span className="quiet" title={`50 %: ${day(side.arrival.p50)}, 80 %: ${day(side.arrival.p80)}`}>
              {side.arrival.p50 ? shortDay(side.arrival.p50) : "never"} · {side.arrival.p80 ? shortDay(side.arrival.p80) : "never"}
              {side.arrival.never > 0 && `, ${side.arrival.never} never`}
            </span>
          </span>
        </div>
      ))}
      <p className="quiet mb-1">
        {figure(found.what_if.late_days)} days without support instead of {figure(found.present.late_days)}, all lines added up.
      </p>
      <ul className="grid grid-cols-2 gap-x-6">
        {found.ends.slice(0, 6).map((end) => (
          <li key={end.team + end.name + end.line} className="flex justify-between gap-2">
            <span className="truncate">
              {end.name} {end.line}, {end.team}
            </span>
            <span className="whitespace-nowrap">
              {end.before === null ? "new" : chance(end.before)} → <b>{end.after === null ? "gone" : chance(end.after)}</b>
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

function Track({ middle, spread, colour }: { middle: number | null; spread: number | null; colour: string }) {
  if (middle === null) return <span className="quiet">does not arrive</span>;
  const [left, right] = [middle * 100, (spread ?? middle) * 100];
  return (
    <span aria-hidden="true" className="relative block h-[14px]">
      <span className="absolute inset-y-0 left-0 rounded-[2px]" style={{ width: `${left}%`, background: colour, opacity: 0.55 }} />
      <span className="absolute inset-y-0" style={{ left: `${left}%`, width: `${right - left}%`, background: "linear-gradient(90deg, var(--amber), transparent)" }} />
      <span className="absolute top-[2px] h-[10px] w-[10px] -translate-x-1/2 rounded-full border" style={{ left: `${left}%`, background: "var(--amber)", borderColor: "var(--ink)" }} />
    </span>
  );
}
