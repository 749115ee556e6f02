/** The gateway: how it is started, its rules, the same for nginx, and what a route has to show. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { put } from "../../api/client";
import { API } from "../../api/address";
import type { BroughtDescription, CrossingView } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { FileButton } from "../../components/FileButton";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { moment } from "../../lib/format";
import { useBring } from "./useBring";
import { useCrossing } from "./useCrossing";

export function GatewayDialog({ slug, crossing, close }: { slug: string; crossing: CrossingView; close: () => void }) {
  const at = `${API}/applications/${encodeURIComponent(slug)}/crossing`;
  const { readAgain } = useCrossing(slug);
  return (
    <Dialog title="Gateway" close={close} wide>
      <p className="text-[14px]">
        Old side <b>{crossing.old_address}</b>, new side <b>{crossing.new_address}</b>. {crossing.gateway ? `It last wrote down what happened ${moment(crossing.gateway)}.` : "No gateway has written anything down yet."}
      </p>
      <p className="mt-3 text-[14px]">Start it beside both sides; it reads the rules again whenever they change:</p>
      <pre className="mt-1 overflow-x-auto rounded border bg-[var(--paper)] px-3 py-2 font-mono text-[12.5px] hair">yoake gateway {crossing.rules_file} --port 8700</pre>
      <p className="mt-3 flex gap-4 text-[14px]">
        <a className="link" href={`${at}/rules`} download="rules.yaml">
          The rules as a file
        </a>
        <a className="link" href={`${at}/nginx`} download="crossing.conf">
          The same for nginx
        </a>
      </p>
      <p className="mt-3 flex items-center gap-3 text-[14px]">
        <button type="button" className="press" onClick={() => readAgain.mutate()}>
          Read routes again
        </button>
        <span className="quiet">{crossing.routes_at ? `Last read ${moment(crossing.routes_at)}.` : "Not read yet."} Every scan of a side reads them too.</span>
      </p>
      <Description slug={slug} />
      <Policy slug={slug} crossing={crossing} close={close} />
    </Dialog>
  );
}

function Description({ slug }: { slug: string }) {
  const say = useToast();
  const bring = useBring<BroughtDescription>(slug, "description", ({ described, only }) =>
    say(`${described} routes are described; ${only === 0 ? "the code has them all" : only === 1 ? "1 of them is in no code" : `${only} of them are in no code`}.`),
  );
  return (
    <p className="mt-3 flex items-center gap-3 text-[14px]">
      <FileButton what="An OpenAPI description" accept=".json,.yaml,.yml" busy={bring.isPending} take={bring.mutate}>
        Bring a description …
      </FileButton>
      <span className="quiet">OpenAPI 3 of the old side: what only it knows is shown as such.</span>
    </p>
  );
}

function Policy({ slug, crossing, close }: { slug: string; crossing: CrossingView; close: () => void }) {
  const client = useQueryClient();
  const told = useTold();
  const [answers, setAnswers] = useState(crossing.answers);
  const [days, setDays] = useState(crossing.days);
  const [quiet, setQuiet] = useState(crossing.quiet);
  const [tests, setTests] = useState(crossing.tests);
  const [grows, setGrows] = useState(crossing.grows);
  const keep = useMutation({
    mutationFn: () => put<undefined>(`/applications/${encodeURIComponent(slug)}/crossing`, { answers, days, quiet, tests, grows, version: crossing.version }),
    onSuccess: close,
    onError: told,
    onSettled: () => void client.invalidateQueries({ queryKey: ["crossing", slug] }),
  });
  const field = (label: string, value: number, set: (value: number) => void, most: number) => (
    <label className="flex items-center gap-2">
      <input className="field w-[74px] text-right" type="number" min={0} max={most} value={value} onChange={(event) => set(Number(event.target.value))} />
      {label}
    </label>
  );
  return (
    <form
      aria-label="What a route has to show"
      className="mt-4 border-t pt-3 text-[14px] hair"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <h3 className="mb-2 font-bold">What a route has to show before it moves on</h3>
      <div className="flex flex-col gap-2">
        {field("answers compared, all alike", answers, setAnswers, 400)}
        {field("days where it stands", days, setDays, 365)}
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={tests} onChange={(event) => setTests(event.target.checked)} />
          a test of the new side that calls it
        </label>
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={grows} onChange={(event) => setGrows(event.target.checked)} />
          shares grow by themselves from then on: 5, 25, 60 %, then the new side
        </label>
        {field("quiet days before the old side goes off", quiet, setQuiet, 365)}
      </div>
      <button type="submit" className="press press-main mt-3" disabled={keep.isPending}>
        Keep
      </button>
    </form>
  );
}
