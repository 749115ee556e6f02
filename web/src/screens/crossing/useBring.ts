/** A file handed over to a crossing; the screen is read again afterwards. */
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { call } from "../../api/client";
import { useTold } from "../../components/useTold";

export function useBring<Answer>(slug: string, what: "logs" | "recording" | "description", done: (answer: Answer) => void) {
  const client = useQueryClient();
  const told = useTold();
  return useMutation({
    mutationFn: (file: File) => {
      const body = new FormData();
      body.append("file", file);
      return call<Answer>(`/applications/${encodeURIComponent(slug)}/crossing/${what}`, { method: "POST", body });
    },
    onSuccess: done,
    onError: told,
    onSettled: () => void client.invalidateQueries({ queryKey: ["crossing", slug] }),
  });
}
