/** Taking in applications: one, a folder of many, or a list; everything is checked before anything is stored. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { call, post } from "../../api/client";
import { destinationsQuery } from "../../api/queries";
import type { Candidate, Preview, Taken } from "../../api/types";
import { Failed } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { plural } from "../../lib/format";
import { useRefresh } from "../../lib/stale";
import { Candidates } from "./Candidates";
import { emptyForm, type Form, IntakeForm } from "./IntakeForm";

export default function Intake() {
  const [form, setForm] = useState<Form>(emptyForm);
  const [shown, setShown] = useState<Candidate[]>([]);
  const destinations = useQuery(destinationsQuery).data ?? [];
  const refresh = useRefresh();
  const onError = useTold();
  const go = useNavigate();
  const say = useToast();
  const destination = form.destination || destinations[0]?.name || "";

  const check = useMutation({
    mutationFn: async (): Promise<Preview> => {
      const source = form.upload ? await uploaded(form.upload) : form.source;
      const body =
        form.way === "one"
          ? { source, ref: form.ref, subfolder: form.subfolder, name: form.name || nameOf(form.upload), owner: form.owner, team: form.team, destination }
          : form.way === "folder"
            ? { folder: form.folder, destination }
            : { csv: form.csv, destination };
      return post<Preview>("/intake/preview", body);
    },
    onSuccess: (preview) => setShown(preview.candidates),
    onError: () => setShown([]),
  });

  const take = useMutation({
    mutationFn: (candidates: Candidate[]) => post<Taken>("/intake", { candidates, look_up: form.lookUp }),
    onSuccess: (taken) => {
      say(`${plural(taken.slugs.length, "application")} added; scanning.`);
      refresh();
      void go(taken.slugs.length === 1 ? `/applications/${taken.slugs[0] ?? ""}` : "/");
    },
    onError,
  });

  const sound = shown.filter((c) => c.faults.length === 0);
  return (
    <div className="page max-w-6xl">
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">Add applications</h1>
      <p className="quiet mb-4">
        What you add is read, never run. Private repositories are reached with your own ssh agent or credential helper; Yoake asks for no secret and keeps none.
      </p>
      <IntakeForm
        form={form}
        set={(change) => {
          setForm((before) => ({ ...before, ...change }));
          if (!("lookUp" in change)) setShown([]);
        }}
        destinations={destinations}
        check={() => check.mutate()}
        busy={check.isPending}
      />
      {check.isError && <Failed error={check.error} />}
      {shown.length > 0 && (
        <section aria-label="Applications to add" className="mt-6">
          <div className="mb-2 flex items-center justify-between gap-4">
            <h2 className="text-[17px] font-bold">
              {plural(sound.length, "application")} to add
              {sound.length < shown.length && <span style={{ color: "var(--rose-text)" }}>; {plural(shown.length - sound.length, "row")} with faults</span>}
            </h2>
            <button type="button" className="press press-main" disabled={sound.length === 0 || take.isPending} onClick={() => take.mutate(sound)}>
              {sound.length < shown.length ? `Add the ${sound.length} without faults` : `Add ${plural(sound.length, "application")}`}
            </button>
          </div>
          <Candidates candidates={shown} />
        </section>
      )}
    </div>
  );
}

function nameOf(file: File | null): string {
  return file?.name.replace(/\.(zip|whl|tar|tgz|tar\.\w+)$/i, "") ?? "";
}

async function uploaded(file: File): Promise<string> {
  const body = new FormData();
  body.append("file", file);
  return (await call<{ source: string }>("/intake/upload", { method: "POST", body })).source;
}
