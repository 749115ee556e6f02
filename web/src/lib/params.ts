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
