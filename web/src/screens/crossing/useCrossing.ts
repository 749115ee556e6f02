/** Changes of a crossing: each is sent, told, and the screen read again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { post, put } from "../../api/client";
import type { PartChoice, Standing } from "../../api/types";
import { useTold } from "../../components/useTold";
import { useToast } from "../../components/Toasts";
import { spoken } from "./track";

type Move = { routes: string[]; standing: Standing; share: number; why: string; before?: { standing: Standing; share: number } };

export function useCrossing(slug: string) {
  const client = useQueryClient();
  const say = useToast();
  const told = useTold();
  const at = `/applications/${encodeURIComponent(slug)}/crossing`;
  const settled = { onSettled: () => void client.invalidateQueries({ queryKey: ["crossing", slug] }), onError: told };
  const move = useMutation({
    mutationFn: ({ routes, standing, share, why }: Move) => post<undefined>(`${at}/moves`, { routes, standing, share, why }),
    onSuccess: (_, { routes, standing, share, before }) => {
      const what = routes.length === 1 ? (routes[0] ?? "") : `${routes.length} routes`;
      const undo = before ? { undo: () => move.mutate({ routes, ...before, why: "Undone." }) } : {};
      say(`${what} ${routes.length === 1 ? "stands" : "stand"} ${spoken(standing, share)} now.`, undo);
    },
    ...settled,
  });
  const safe = useMutation({ mutationFn: (body: { route: string; safe: boolean; why: string }) => post<undefined>(`${at}/safe`, body), ...settled });
  const mended = useMutation({
    mutationFn: (route: string) => post<undefined>(`${at}/mended`, { route }),
    onSuccess: () => say("Comparisons count from now on."),
    ...settled,
  });
  const retire = useMutation({
    mutationFn: (body: { routes: string[]; why: string }) => post<undefined>(`${at}/retire`, body),
    onSuccess: (_, { routes }) => {
      say(`Retiring ${routes[0] ?? ""} is a step now; it closes when the code has it no more.`);
      void client.invalidateQueries({ queryKey: ["work"] });
    },
    ...settled,
  });
  const part = useMutation({ mutationFn: (body: { file: string; name: string; choice: PartChoice }) => put<undefined>(`${at}/parts`, body), ...settled });
  const slices = useMutation({ mutationFn: (body: { name: string; routes: string[] }[]) => put<undefined>(`${at}/slices`, { slices: body }), ...settled });
  const readAgain = useMutation({ mutationFn: () => post<{ job: number }>(`${at}/read`, {}), onSuccess: () => say("The routes of both sides are being read."), ...settled });
  return { move, safe, mended, retire, part, slices, readAgain };
}
