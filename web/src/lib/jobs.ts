/** Scans that run, live from the server; what they change is fetched again when they end. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { jobsQuery } from "../api/queries";
import type { Job } from "../api/types";

const STALE = ["portfolio", "work", "evidence", "path", "destinations"];

export function useJobStream(): void {
  const client = useQueryClient();
  useEffect(() => {
    const stream = new EventSource("/api/jobs/stream");
    let unfinished = -1;
    let lastRefresh = 0;
    stream.addEventListener("jobs", (event) => {
      const jobs = JSON.parse((event as MessageEvent<string>).data) as Job[];
      client.setQueryData(jobsQuery.queryKey, jobs);
      const open = jobs.filter(isOpen).length;
      const now = Date.now();
      if (unfinished >= 0 && open !== unfinished && (open === 0 || now - lastRefresh > 1500)) {
        lastRefresh = now;
        for (const key of STALE) void client.invalidateQueries({ queryKey: [key] });
      }
      unfinished = open;
    });
    return () => stream.close();
  }, [client]);
}

export function isOpen(job: Job): boolean {
  return job.state === "waiting" || job.state === "running";
}
