/** Scans that run, live from the server; what they change is fetched again when they end. */
import { API } from "../api/address";
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { jobsQuery } from "../api/queries";
import type { EditsView, Evidence, HorizonWindow, Job, ProofView, WavesView } from "../api/types";
import { refreshScans } from "./stale";

export function useJobStream(): void {
  const client = useQueryClient();
  useEffect(() => {
    let finished: string | null = null;
    let lastRefresh = 0;
    const told = (event: Event) => {
      const jobs = JSON.parse((event as MessageEvent<string>).data) as Job[];
      client.setQueryData(jobsQuery.queryKey, jobs);
      const ended = jobs.filter((job) => !isOpen(job)).map((job) => job.id).join();
      const now = Date.now();
      const quiet = !jobs.some(isOpen) || now - lastRefresh > 1500;
      const changed = finished === null ? showsScanning(client) : ended !== finished;
      if (changed && quiet) {
        lastRefresh = now;
        void refreshScans(client);
      }
      if (finished === null || quiet) finished = ended;
    };
    let stream: EventSource | null = null;
    const open = () => {
      stream ??= new EventSource(`${API}/jobs/stream`);
      stream.addEventListener("jobs", told);
    };
    const close = () => {
      stream?.close();
      stream = null;
    };
    // A browser has only six connections for one address: a page kept aside or a tab out of sight must not hold one.
    const seen = () => (document.visibilityState === "visible" ? open() : close());
    document.addEventListener("visibilitychange", seen);
    window.addEventListener("pagehide", close);
    window.addEventListener("pageshow", open);
    open();
    return () => {
      document.removeEventListener("visibilitychange", seen);
      window.removeEventListener("pagehide", close);
      window.removeEventListener("pageshow", open);
      close();
    };
  }, [client]);
}

/** Whether anything on the screen was read while a scan was under way, so that it may be old by now. */
function showsScanning(client: QueryClient): boolean {
  const rows = client.getQueriesData<HorizonWindow>({ queryKey: ["portfolio"] }).flatMap(([, window]) => window?.rows ?? []);
  const open = client.getQueriesData<Evidence>({ queryKey: ["evidence"] }).flatMap(([, evidence]) => (evidence ? [evidence.application] : []));
  const edits = client.getQueriesData<EditsView>({ queryKey: ["edits"] }).some(([, view]) => view?.state === "working");
  const runs = client.getQueriesData<ProofView>({ queryKey: ["proof"] }).some(([, view]) => view !== undefined && view.job !== null);
  const waves = client.getQueriesData<WavesView>({ queryKey: ["waves"], exact: true }).some(([, view]) => view !== undefined && (view.working || view.unplanned.length > 0));
  return edits || runs || waves || [...rows, ...open].some((row) => row.state === "waiting" || row.state === "running" || row.state === "never");
}

export function isOpen(job: Job): boolean {
  return job.state === "waiting" || job.state === "running";
}
