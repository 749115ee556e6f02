import { QueryClient } from "@tanstack/react-query";
import { expect, test } from "vitest";

import { refreshApplications, refreshScans } from "./stale";

function held(): QueryClient {
  const client = new QueryClient();
  for (const key of [["portfolio", {}, 0], ["finding", "shop", 3], ["jobs"], ["session"], ["knowledge", "", 0], ["kept", "evidence"]]) client.setQueryData(key, 1);
  return client;
}

const stale = (client: QueryClient) =>
  client
    .getQueryCache()
    .getAll()
    .filter((query) => query.state.isInvalidated)
    .map((query) => query.queryKey[0]);

test("what is made of applications is stale, who is signed in and what is known is not", async () => {
  const client = held();
  await refreshApplications(client);
  expect(stale(client)).toEqual(["portfolio", "finding", "jobs"]);
});

test("while scans end, what belongs to one scan stays", async () => {
  const client = held();
  await refreshScans(client);
  expect(stale(client)).toEqual(["portfolio"]);
});
