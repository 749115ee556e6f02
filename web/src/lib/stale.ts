/** What is fetched again once something about applications has changed: every view that is made of them. */
import { type QueryClient, useQueryClient } from "@tanstack/react-query";

const OF_SCANS = ["portfolio", "work", "step", "evidence", "findings", "path", "edits", "proof", "crossing", "waves", "destinations"];
const OF_APPLICATIONS = [...OF_SCANS, "position", "finding", "places", "files", "map", "packages", "delta", "graph", "jobs", "events"];

const refresh = (client: QueryClient, keys: string[]) => Promise.all(keys.map((key) => client.invalidateQueries({ queryKey: [key] })));

/** After something was set, adopted, waived or taken in. */
export const refreshApplications = (client: QueryClient) => refresh(client, OF_APPLICATIONS);

/** While scans end, every second or so: the rest is asked for by the scan it belongs to, and a new one asks anew. */
export const refreshScans = (client: QueryClient) => refresh(client, OF_SCANS);

export function useRefresh(): () => void {
  const client = useQueryClient();
  return () => void refreshApplications(client);
}
