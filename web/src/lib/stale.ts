/** What is fetched again once something about applications has changed: every view that is made of them. */
import { type QueryClient, useQueryClient } from "@tanstack/react-query";

const OF_APPLICATIONS = ["portfolio", "work", "step", "evidence", "findings", "position", "finding", "places", "files", "map", "packages", "delta", "graph", "path", "destinations", "jobs", "events"];

export const refreshApplications = (client: QueryClient) => Promise.all(OF_APPLICATIONS.map((key) => client.invalidateQueries({ queryKey: [key] })));

export function useRefresh(): () => void {
  const client = useQueryClient();
  return () => void refreshApplications(client);
}
