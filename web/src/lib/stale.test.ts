import { QueryClient } from "@tanstack/react-query";
import { expect, test } from "vitest";

import { refreshApplications } from "./stale";

test("what is made of applications is stale, who is signed in and what is known is not", async () => {
  const client = new QueryClient();
  for (const key of [["portfolio", {}, 0], ["finding", "shop", 3], ["jobs"], ["session"], ["knowledge", "", 0], ["kept", "evidence"]]) client.setQueryData(key, 1);
  await refreshApplications(client);
  const stale = client.getQueryCache().getAll().filter((query) => query.state.isInvalidated);
  expect(stale.map((query) => query.queryKey[0])).toEqual(["portfolio", "finding", "jobs"]);
});
