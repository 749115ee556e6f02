/** A view's settings live in the address, so that a list can be kept as a link. */
import { useCallback } from "react";
import { useSearchParams } from "react-router";

export function useParam(name: string, fallback = ""): [string, (value: string) => void] {
  const [params, setParams] = useSearchParams();
  const set = useCallback(
    (value: string) => {
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          if (value === fallback) next.delete(name);
          else next.set(name, value);
          return next;
        },
        { replace: true },
      );
    },
    [name, fallback, setParams],
  );
  return [params.get(name) ?? fallback, set];
}

/** Several settings at once, empty ones taken out: of two that are set one after the other only the last would stay. */
export function useSetParams(): (values: Record<string, string>) => void {
  const [, setParams] = useSearchParams();
  return useCallback(
    (values: Record<string, string>) =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [name, value] of Object.entries(values)) {
            if (value === "") next.delete(name);
            else next.set(name, value);
          }
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
}
