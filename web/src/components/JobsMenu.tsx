/** What is being scanned: a bar with rate and time left, each with a stop. Never blocks reading. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { jobsQuery } from "../api/queries";
import type { Job } from "../api/types";
import { plural, seconds } from "../lib/format";
import { isOpen } from "../lib/jobs";
import { useScans } from "./useScans";

export function JobsMenu() {
  const jobs = useQuery(jobsQuery).data ?? [];
  const [shown, setShown] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!shown) return;
    const close = (event: Event) => {
      if (event instanceof KeyboardEvent ? event.key === "Escape" : !box.current?.contains(event.target as Node)) setShown(false);
    };
    document.addEventListener("mousedown", close);
    document.addEventListener("keydown", close);
    return () => {
      document.removeEventListener("mousedown", close);
      document.removeEventListener("keydown", close);
    };
  }, [shown]);
  const { stop, stopping } = useScans();
  const open = jobs.filter(isOpen);
  const running = open.find((job) => job.state === "running");
  const failed = jobs.filter((job) => job.state === "failed").slice(0, 20);
  if (jobs.length === 0) return null;
  return (
    <div ref={box} className="relative">
      <button type="button" className="press press-quiet min-w-44 justify-end" aria-expanded={shown} onClick={() => setShown(!shown)}>
        {running ? <Running job={running} more={open.length - 1} /> : open.length > 0 ? `${plural(open.length, "scan")} waiting` : "scans"}
      </button>
      {shown && (
        <div className="dialog absolute right-0 z-40 mt-1 max-h-[70vh] w-[26rem] overflow-auto p-3 text-[13.5px]">
          {open.length === 0 && <p className="quiet">No scans are running.</p>}
          {open.length > 0 && (
            <p className="mb-2 flex items-center justify-between font-semibold">
              {plural(open.length, "scan")} to do
              <button type="button" className="press" disabled={stopping} onClick={() => stop(open.map((job) => job.id))}>
                Stop all
              </button>
            </p>
          )}
          <ul>
            {open.slice(0, 100).map((job) => (
              <JobLine key={job.id} job={job} />
            ))}
          </ul>
          {failed.length > 0 && <p className="mt-3 mb-1 font-semibold">Not finished</p>}
          <ul>
            {failed.map((job) => (
              <li key={job.id} className="border-t py-1 hair">
                <b>{job.application}</b> <span className="quiet">{job.problem}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}

function Running({ job, more }: { job: Job; more: number }) {
  return (
    <span className="flex items-center gap-2">
      <span className="max-w-40 truncate">{job.application}</span>
      <progress className="h-1.5 w-16" value={job.total ? job.done : undefined} max={job.total || 1} aria-label={`Scanning ${job.application}`} />
      {more > 0 && <span>+{more}</span>}
    </span>
  );
}

function JobLine({ job }: { job: Job }) {
  const { stop, stopping } = useScans();
  const rate = job.rate ? `${Math.round(job.rate)} files/s` : "";
  const left = job.left !== null ? `, ${seconds(job.left)} left` : "";
  return (
    <li className="grid grid-cols-[1fr_auto] items-center gap-x-3 border-t py-1.5 hair">
      <span className="truncate font-semibold">{job.application}</span>
      <button type="button" className="press" title={`Stop scanning ${job.application}`} disabled={stopping} onClick={() => stop([job.id])}>
        Stop
      </button>
      <span className="quiet">{job.state === "waiting" ? "waiting" : `${job.phase} ${job.total ? `${job.done} of ${job.total} files, ${rate}${left}` : ""}`}</span>
    </li>
  );
}
