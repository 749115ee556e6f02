/** The three ways in, and the destination. */
import type { ReactNode } from "react";

import type { Destination } from "../../api/types";

export type Form = {
  way: "one" | "folder" | "list";
  source: string;
  ref: string;
  subfolder: string;
  name: string;
  owner: string;
  team: string;
  folder: string;
  csv: string;
  destination: string;
  upload: File | null;
  lookUp: boolean;
};

export const emptyForm: Form = { way: "one", source: "", ref: "", subfolder: "", name: "", owner: "", team: "", folder: "", csv: "", destination: "", upload: null, lookUp: false };

const WAYS = [
  ["one", "one application"],
  ["folder", "a folder of many"],
  ["list", "a list"],
] as const;

type Props = { form: Form; set: (change: Partial<Form>) => void; destinations: Destination[]; check: () => void; busy: boolean };

export function IntakeForm({ form, set, destinations, check, busy }: Props) {
  const ready = form.way === "one" ? Boolean(form.source.trim() || form.upload) : form.way === "folder" ? Boolean(form.folder.trim()) : Boolean(form.csv.trim());
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        check();
      }}
    >
      <div role="group" aria-label="What to add" className="flex gap-1">
        {WAYS.map(([way, label]) => (
          <button key={way} type="button" aria-pressed={form.way === way} className={`rounded px-2.5 py-1 ${form.way === way ? "sheet font-semibold outline outline-[var(--line)]" : "quiet"}`} onClick={() => set({ way })}>
            {label}
          </button>
        ))}
      </div>
      {form.way === "one" && <One form={form} set={set} />}
      {form.way === "folder" && (
        <Field label="Folder that holds repositories or projects" hint="on the machine Yoake runs on">
          <input className="field w-full" placeholder="/srv/repositories" value={form.folder} onChange={(e) => set({ folder: e.target.value })} />
        </Field>
      )}
      {form.way === "list" && <List form={form} set={set} />}
      <Field label="Destination" hint={form.way === "list" ? "for rows that name none" : "a name, or lines such as python@3.13 pypi/django@5.2"}>
        <input className="field w-full" list="destinations" placeholder={destinations[0]?.name ?? "python@3.13 pypi/django@5.2"} value={form.destination} onChange={(e) => set({ destination: e.target.value })} />
        <datalist id="destinations">
          {destinations.map((d) => (
            <option key={d.name} value={d.name}>
              {d.shown.join(", ")}
            </option>
          ))}
        </datalist>
      </Field>
      <label className="flex items-baseline gap-2">
        <input type="checkbox" className="checkbox checkbox-sm self-center" checked={form.lookUp} onChange={(e) => set({ lookUp: e.target.checked })} />
        <b>Look packages up</b> <span className="quiet text-[13px]">asks the package clients for those that are not known; their names leave this machine</span>
      </label>
      <button type="submit" className="press press-main self-start" disabled={!ready || busy}>
        {busy ? "Checking …" : "Check"}
      </button>
    </form>
  );
}

function One({ form, set }: { form: Form; set: Props["set"] }) {
  return (
    <>
      <div className="grid grid-cols-[2fr_1fr_1fr] gap-4">
        <Field label="Source" hint="folder, git URL or path, zip or tar">
          <input className="field w-full" placeholder="/srv/repositories/ticket-desk" value={form.source} disabled={form.upload !== null} onChange={(e) => set({ source: e.target.value })} />
        </Field>
        <Field label="Ref" hint="branch, tag or commit">
          <input className="field w-full" placeholder="HEAD" value={form.ref} disabled={form.upload !== null} onChange={(e) => set({ ref: e.target.value })} />
        </Field>
        <Field label="Subfolder" hint="if not the whole">
          <input className="field w-full" value={form.subfolder} onChange={(e) => set({ subfolder: e.target.value })} />
        </Field>
      </div>
      <div className="grid grid-cols-[2fr_1fr_1fr] gap-4">
        <Field label="or an archive" hint="zip, wheel or tar">
          <input type="file" className="file-input file-input-sm w-full border-[var(--line)] bg-[var(--sheet)]" accept=".zip,.whl,.tar,.gz,.tgz,.bz2,.xz" onChange={(e) => set({ upload: e.target.files?.[0] ?? null })} />
        </Field>
        <Field label="Owner">
          <input className="field w-full" value={form.owner} onChange={(e) => set({ owner: e.target.value })} />
        </Field>
        <Field label="Team">
          <input className="field w-full" value={form.team} onChange={(e) => set({ team: e.target.value })} />
        </Field>
      </div>
      <Field label="Name" hint="taken from the source when empty">
        <input className="field w-full" value={form.name} onChange={(e) => set({ name: e.target.value })} />
      </Field>
    </>
  );
}

function List({ form, set }: { form: Form; set: Props["set"] }) {
  return (
    <>
      <Field label="List, as CSV" hint="first line: name, source, ref, subfolder, owner, team, destination; only source is needed">
        <textarea className="field code w-full" rows={8} placeholder={"name,source,team\nticket-desk,/srv/repositories/ticket-desk,Sales"} value={form.csv} onChange={(e) => set({ csv: e.target.value })} />
      </Field>
      <Field label="or upload it">
        <input
          type="file"
          accept=".csv,.txt,.tsv"
          className="file-input file-input-sm w-full border-[var(--line)] bg-[var(--sheet)]"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) void file.text().then((csv) => set({ csv }));
          }}
        />
      </Field>
    </>
  );
}

function Field({ label, hint, children }: { label: string; hint?: string; children: ReactNode }) {
  return (
    <label className="block">
      <span className="mb-1 flex items-baseline gap-2">
        <b>{label}</b> {hint && <span className="quiet text-[13px]">{hint}</span>}
      </span>
      {children}
    </label>
  );
}
