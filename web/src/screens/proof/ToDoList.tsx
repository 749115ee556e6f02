/** What the stage lacks, each with the way to bring it. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { post, put } from "../../api/client";
import type { ProofView, ToDo } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { useToast } from "../../components/Toasts";
import { Preflight } from "./Preflight";
import { Reports } from "./Reports";

type Props = { slug: string; proof: ProofView; stage: number; ask: () => void };

export function ToDoList({ slug, proof, stage, ask }: Props) {
  const shown = stage === proof.here ? proof.todo : [];
  return (
    <section aria-label="To do" className="w-[262px] shrink-0">
      <h2 className="mb-2 text-[15.5px] font-bold">{stage === 0 ? "Today" : `To do for stage ${stage}`}</h2>
      <ul className="mb-3 flex max-h-[190px] flex-col gap-2 overflow-auto">
        {shown.map((one) => (
          <li key={`${one.kind}${one.key}`}>
            <Item slug={slug} stage={stage} item={one} />
          </li>
        ))}
        {shown.length === 0 && <li className="quiet text-[13.5px]">{stage === proof.here ? "Nothing." : stage === 0 ? "Run its tests as it is, so that later runs have something to be held against." : "It waits for the stages before it, or lacks nothing."}</li>}
      </ul>
      <RunButton key={branchOf(proof, stage)} slug={slug} proof={proof} stage={stage} ask={ask} />
      <Preflight key={proof.runs.length} slug={slug} stage={stage} />
    </section>
  );
}

function Item({ slug, stage, item }: { slug: string; stage: number; item: ToDo }) {
  const [looking, setLooking] = useState(false);
  const [reading, setReading] = useState(false);
  const base = `/applications/${slug}`;
  return (
    <>
      {item.kind === "changes" && (
        <Link className="font-semibold underline" to={`${base}/edits?scope=${item.key || stage}`}>
          {item.title}
        </Link>
      )}
      {(item.kind === "run" || item.kind === "moved") && <b>{item.title}</b>}
      {item.kind === "routes" && (
        <Link className="font-semibold underline" to={`${base}/crossing`}>
          {item.title}
        </Link>
      )}
      {item.kind === "leftovers" && (
        <Link className="font-semibold underline" to={`${base}?q=${encodeURIComponent("leftover")}`}>
          {item.title}
        </Link>
      )}
      {item.kind === "checks" && (
        <button type="button" className="text-left font-semibold underline" onClick={() => setReading(true)}>
          {item.title}
        </button>
      )}
      {item.kind === "look" && (
        <button type="button" className="text-left font-semibold underline" onClick={() => setLooking(true)}>
          {item.title}
        </button>
      )}
      <span className="quiet block truncate text-[12.5px]" title={item.detail}>
        {item.detail}
      </span>
      {reading && <Reports slug={slug} stage={stage} close={() => setReading(false)} />}
      {looking && <Look slug={slug} item={item} close={() => setLooking(false)} />}
    </>
  );
}

/** A named person looked at a changed behaviour; what they saw stays with it. */
function Look({ slug, item, close }: { slug: string; item: ToDo; close: () => void }) {
  const [note, setNote] = useState("");
  const client = useQueryClient();
  const toast = useToast();
  const send = useMutation({
    mutationFn: () => put(`/applications/${encodeURIComponent(slug)}/looks/${encodeURIComponent(item.key)}`, { note }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["proof", slug] });
      void client.invalidateQueries({ queryKey: ["work"] });
      close();
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  return (
    <Dialog title={item.title} close={close}>
      <form
        className="flex flex-col gap-3 text-[14px]"
        onSubmit={(event) => {
          event.preventDefault();
          send.mutate();
        }}
      >
        <p>
          The code runs on both sides and does something else. It stands in {item.detail}:{" "}
          <Link className="underline" to={`/applications/${slug}?finding=${encodeURIComponent(item.key)}`}>
            see its places
          </Link>
          .
        </p>
        <label className="flex flex-col gap-1">
          <b>What you saw</b>
          <textarea className="field w-full" rows={3} value={note} onChange={(e) => setNote(e.target.value)} />
        </label>
        <button type="submit" className="press press-main self-start" disabled={send.isPending}>
          I looked at it
        </button>
      </form>
    </Dialog>
  );
}

const branchOf = (proof: ProofView, stage: number) => proof.stages.find((one) => one.number === stage)?.branch ?? "";

/** Runs the tests on what stands before the stage and on the stage itself. */
function RunButton({ slug, proof, stage, ask }: Props) {
  const [branch, setBranch] = useState(branchOf(proof, stage));
  const client = useQueryClient();
  const toast = useToast();
  const run = useMutation({
    mutationFn: () => post<{ job: number }>(`/applications/${encodeURIComponent(slug)}/runs`, { stage, branch: stage === 0 ? "" : branch }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["proof", slug] });
      void client.invalidateQueries({ queryKey: ["jobs"] });
    },
    onError: (error) => toast(error.message, { bad: true }),
  });
  if (!proof.settings.allowed) {
    return (
      <button type="button" className="press press-main" onClick={ask} disabled={proof.stages.length === 0}>
        Turn runs on …
      </button>
    );
  }
  return (
    <div className="flex flex-col items-start gap-2">
      {stage > 0 && proof.branches.length > 0 && (
        <label className="flex w-full items-center gap-2 text-[13.5px]">
          <span className="quiet">code</span>
          <select className="field h-7 min-w-0 grow" value={branch} onChange={(e) => setBranch(e.target.value)}>
            <option value="">as it is</option>
            {proof.branches.map((one) => (
              <option key={one} value={one}>
                {one}
              </option>
            ))}
          </select>
        </label>
      )}
      <div className="flex gap-2">
        <button type="button" className="press press-main" disabled={proof.job !== null || run.isPending} onClick={() => run.mutate()}>
          {proof.job !== null ? "Running …" : stage === 0 ? "Run its tests" : "Run both sides"}
        </button>
        <button type="button" className="press press-quiet" onClick={ask}>
          How …
        </button>
      </div>
    </div>
  );
}
