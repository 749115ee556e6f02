/** Asking for scans and stopping them, from wherever that can be done; what does not work is said. */
import { useMutation } from "@tanstack/react-query";

import { ApiError, post } from "../api/client";
import type { JobsAsked } from "../api/types";
import { useRefresh } from "../lib/stale";
import { useToast } from "./Toasts";
import { useTold } from "./useTold";

/** ``applications`` empty: all of them. */
type Asked = { applications: string[]; text: (asked: JobsAsked) => string };

/** One that has ended meanwhile is what was wanted. */
function unlessEnded(error: unknown) {
  if (!(error instanceof ApiError && error.failure.kind === "refused" && error.failure.status === 409)) throw error;
}

export function useScans() {
  const say = useToast();
  const onError = useTold();
  const onSettled = useRefresh();
  const scan = useMutation({
    mutationFn: ({ applications }: Asked) => post<JobsAsked>("/scans", applications.length > 0 ? { applications } : {}),
    onSuccess: (asked, { text }) => say(text(asked)),
    onError,
    onSettled,
  });
  const stop = useMutation({
    mutationFn: (jobs: number[]) => Promise.all(jobs.map((job) => post(`/jobs/${job}/stop`, {}).catch(unlessEnded))),
    onError,
    onSettled,
  });
  return { scan: scan.mutate, stop: stop.mutate, stopping: stop.isPending };
}
