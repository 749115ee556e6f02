/** Taking a path and taking it back, on the version that was seen; either can be undone. */
import { useMutation } from "@tanstack/react-query";
import { useSearchParams } from "react-router";

import { currentOf, put, remove } from "../../api/client";
import type { Adoption, AdoptionChange, PathView } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { useCollision } from "../../components/useCollision";
import { useTold } from "../../components/useTold";
import { moment } from "../../lib/format";
import { useRefresh } from "../../lib/stale";
import { bendOf } from "./shape";

export function useTaking(path: PathView) {
  const [params] = useSearchParams();
  const toast = useToast();
  const collision = useCollision();
  const address = `/applications/${encodeURIComponent(path.application.slug)}/path`;
  const refresh = useRefresh();
  const told = useTold();
  const adopt = (body: object) => put<AdoptionChange>(address, body);
  const drop = (version: number) => remove<AdoptionChange>(`${address}?${new URLSearchParams({ set: path.set, version: String(version) }).toString()}`);

  /** Back to what was adopted before, or to nothing. */
  const undo = (made: AdoptionChange) => () => {
    const before = made.before;
    const again = before && { set: before.set, choice: before.choice, pin: before.pin, avoid: before.avoid, order: before.order, out: before.out, drop: before.drop, why: before.why };
    void (again ? adopt({ ...again, version: made.version }) : drop(made.version)).then(refresh).catch(told);
  };
  const done = (text: string) => (made: AdoptionChange) => {
    toast(text, { undo: undo(made) });
    refresh();
  };
  /** Somebody else chose meanwhile: both are shown. */
  const refused = (mine: string, again: (version: number) => void) => (error: unknown) => {
    const current = currentOf<Adoption>(error);
    if (current === undefined) return told(error);
    const theirs = current ? `${current.title}, adopted by ${current.who}, ${moment(current.at)}` : "no path is adopted";
    collision.ask({ rows: [{ what: "The path", theirs, mine }], keepMine: () => again(current?.version ?? 0), keepTheirs: refresh });
  };
  const seen = path.adopted?.version ?? 0;
  const take = useMutation({
    mutationFn: ({ choice, version = seen }: { choice: string; version?: number }) => adopt({ set: path.set, choice, ...bendOf(params), version }),
    onSuccess: done("Adopted. Its stages are work now."),
    onError: (error, { choice }) => refused(path.ways.find((w) => w.key === choice)?.title ?? path.others.find((o) => o.strategy === choice)?.title ?? choice, (version) => take.mutate({ choice, version }))(error),
  });
  const leave = useMutation({
    mutationFn: (version: number) => drop(version),
    onSuccess: done("No longer adopted. Its open stages are no work any more."),
    onError: (error) => refused("no path is adopted", (version) => (version ? leave.mutate(version) : refresh()))(error),
  });
  return { take: (choice: string) => take.mutate({ choice }), leave: () => leave.mutate(seen), busy: take.isPending, question: collision.dialog };
}
