/** How an application counts in the plan: teams that share it, what features take, what a late day costs, and who else moves it. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { put, remove } from "../../api/client";
import { inTimeQuery } from "../../api/queries";
import type { InTime } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { plural } from "../../lib/format";
import { readShares, writeShares } from "./shares";

type Props = { slug: string; name: string; close: () => void };

export function InTimeDialog({ slug, name, close }: Props) {
  const query = useQuery(inTimeQuery(slug));
  return (
    <Dialog title={`${name} in the plan`} close={close} wide>
      {query.data ? <Form slug={slug} name={name} held={query.data} close={close} /> : <Waiting what="the application" />}
    </Dialog>
  );
}

const BLANK = { vendor: "", contact: "", asked: "", answer: "", promised: "", chase: "", arrived: "" };
const DATES = [
  ["asked", "Asked on"],
  ["promised", "Promised for"],
  ["chase", "Chase on"],
  ["arrived", "Their release is here since"],
] as const;

function Form({ slug, name, held, close }: Props & { held: InTime }) {
  const [shares, setShares] = useState(writeShares(held.teams));
  const [features, setFeatures] = useState(String(Math.round(held.features * 100)));
  const [late, setLate] = useState(String(held.late));
  const [theirs, setTheirs] = useState(held.outside !== null);
  const out = held.outside;
  const [outside, setOutside] = useState(out ? { vendor: out.vendor, contact: out.contact, asked: out.asked ?? "", answer: out.answer, promised: out.promised ?? "", chase: out.chase ?? "", arrived: out.arrived ?? "" } : BLANK);
  const client = useQueryClient();
  const toast = useToast();
  const told = useTold();
  const at = `/applications/${encodeURIComponent(slug)}`;
  const set = (field: keyof typeof BLANK) => (value: string) => setOutside({ ...outside, [field]: value });
  const save = useMutation({
    mutationFn: async () => {
      const teams = readShares(shares);
      await put(`${at}/teams`, { teams: Object.keys(teams).length > 1 ? teams : {} });
      await put(`${at}/weight`, { features: Number(features) / 100, late: Number(late) });
      if (theirs) {
        const { vendor, contact, answer } = outside;
        const [asked, promised, chase, arrived] = DATES.map(([field]) => outside[field] || null);
        await put(`${at}/outside`, { vendor, contact, answer, asked, promised, chase, arrived, version: out?.version ?? 0 });
      } else if (out) await remove(`${at}/outside`);
    },
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["waves"] });
      void client.invalidateQueries({ queryKey: ["in-time", slug] });
      toast(`${name} is planned anew.`);
      close();
    },
    onError: told,
  });
  return (
    <form
      className="flex flex-col gap-3 text-[14px]"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <label className="flex flex-col gap-1">
        <b>Teams that share it</b>
        <input className="field w-full" value={shares} placeholder="its own team alone; else Sales 70, Platform 30" onChange={(e) => setShares(e.target.value)} />
      </label>
      <div className="flex gap-6">
        <label className="flex items-center gap-2">
          Its features take
          <input className="field w-20" type="number" min="0" max="95" value={features} onChange={(e) => setFeatures(e.target.value)} />% of the days
        </label>
        <label className="flex items-center gap-2">
          A late day costs
          <input className="field w-20" type="number" min="0.01" max="1000" step="any" value={late} onChange={(e) => setLate(e.target.value)} />
          <span className="quiet">times that of others</span>
        </label>
      </div>
      <label className="flex items-center gap-2">
        <input type="checkbox" className="checkbox checkbox-xs border-[var(--line)]" checked={theirs} onChange={(e) => setTheirs(e.target.checked)} />
        <b>Somebody else moves it</b>
        {out?.waiting !== null && out?.waiting !== undefined && <span className="text-[var(--rose-text)]">no answer for {plural(out.waiting, "day")}</span>}
      </label>
      {theirs && (
        <div className="grid grid-cols-2 gap-3 border-l pl-4 hair">
          <label className="flex flex-col gap-1">
            Who
            <input className="field" required value={outside.vendor} onChange={(e) => set("vendor")(e.target.value)} />
          </label>
          <label className="flex flex-col gap-1">
            Contact
            <input className="field" value={outside.contact} onChange={(e) => set("contact")(e.target.value)} />
          </label>
          {DATES.map(([field, words]) => (
            <label key={field} className="flex flex-col gap-1">
              {words}
              <input className="field" type="date" value={outside[field]} onChange={(e) => set(field)(e.target.value)} />
            </label>
          ))}
          <label className="col-span-2 flex flex-col gap-1">
            What they answered
            <input className="field w-full" value={outside.answer} onChange={(e) => set("answer")(e.target.value)} />
          </label>
        </div>
      )}
      <button type="submit" className="press press-main self-start" disabled={save.isPending}>
        Save
      </button>
    </form>
  );
}
