import "./index.css";

import { QueryCache, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";

import { ApiError } from "./api/client";
import { App } from "./App";
import { Toasts } from "./components/Toasts";

// A session that ended meanwhile is met by some query first; then whoever it was signs in again.
const cache = new QueryCache({
  onError: (error) => {
    if (error instanceof ApiError && error.failure.kind === "refused" && error.failure.status === 401) void client.invalidateQueries({ queryKey: ["session"] });
  },
});

const client: QueryClient = new QueryClient({
  queryCache: cache,
  defaultOptions: {
    queries: {
      staleTime: 15_000,
      refetchOnWindowFocus: false,
      retry: (count, error) => count < 2 && error instanceof ApiError && error.failure.kind === "unreachable",
    },
  },
});

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <Toasts>
            <App />
          </Toasts>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
