/** One stage: why it is where it is, what stands in the way of an earlier day, and what slips when it is put elsewhere. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { problemOf, put } from "../../api/client";
import { moveQuery, storyQuery } from "../../api/queries";
import type { MoveView, Slip, StageStory, WavesView } from "../../api/types";
import { useToast } from "../../components/Toasts";
import { useTold } from "../../components/useTold";
import { day, effort } from "../../lib/format";
import { InTimeDialog } from "./InTimeDialog";
import { slip } from "./words";

type Props = { view: WavesView; stage: string; begins: string | null; setBegins: (day: string | null) => void; close: () => void };

export function StagePanel({ view, stage, begins, setBegins, close }: Props) {
  const story = useQuery(storyQuery(stage, view.mark));
  return (
    <section aria-label="Stage" className="foot-bar fixed inset-x-0 bottom-0 z-20 max-h-[46vh] overflow-y-auto border-t px-[22px] pt-3 pb-4" style={{ background: "var(--sheet)", borderColor: "var(--line)" }}>
      {story.isPending && <p className="quiet">Reading the stage …</p>}
      {story.isError && (
        <p className="flex items-center gap-3">
          {problemOf(story.error)}
          <button type="button" className="press" onClick={close}>
            Close
          </button>
        </p>
      )}
      {story.data && <Story view={view} story={story.data} begins={begins} setBegins={setBegins} close={close} />}
    </section>
  );
}

function Story({ view, story, begins, setBegins, close }: Omit<Props, "stage"> & { story: StageStory }) {
  const { bar } = story;
  const [asking, setAsking] = useState(false);
  return (
    <div className="grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)_minmax(0,1fr)] gap-8 text-[14px]">
      <div>
        <h2 className="text-[17px] font-bold">
          {bar.name} {bar.number === 0 ? "" : bar.number} <span className="font-normal">{bar.title}</span>
        </h2>
        <p className="quiet mb-2">
          {bar.team} · {effort(bar.days)} ({effort(bar.days80)} with 80 %) · {bar.taken ? "path adopted" : "path proposed"} ·{" "}
          <Link to={`/applications/${bar.application}/path`} className="underline decoration-dotted underline-offset-4">
            Path
          </Link>{" "}
          ·{" "}
          <button type="button" className="underline decoration-dotted underline-offset-4" onClick={() => setAsking(true)}>
            how it counts
          </button>
        </p>
        <p className="mb-1">{story.why}</p>
        <dl className="grid grid-cols-[auto_1fr] gap-x-4">
          <dt className="quiet">as planned</dt>
          <dd>
            {bar.starts ? `${day(bar.starts)} to ${day(bar.live)}` : "not known"}
          </dd>
          <dt className="quiet">50, 80, 95 %</dt>
          <dd>
            {bar.p50 ? `${day(bar.p50)} · ${day(bar.p80)} · ${day(bar.p95)}` : "not known"}
          </dd>
        </dl>
        {story.dues.map((due) => (
          <p key={due} className="quiet">
            {due}
          </p>
        ))}
      </div>
      <div>
        <h3 className="font-bold">Why not earlier?</h3>
        {story.earlier.length === 0 ? <p className="quiet">Nothing stands in the way: this is as early as it can be.</p> : story.earlier.map((one) => <p key={one}>{one}</p>)}
        {story.first !== null && story.first_slips.length > 0 && (
          <>
            <p className="mt-2">
              Put before all others it would be live on <b>{day(story.first)}</b>, and:
            </p>
            <Slips slips={story.first_slips} />
          </>
        )}
      </div>
      <Move view={view} story={story} begins={begins} setBegins={setBegins} close={close} />
      {asking && <InTimeDialog slug={bar.application} name={bar.name} close={() => setAsking(false)} />}
    </div>
  );
}

function Move({ view, story, begins, setBegins, close }: Omit<Props, "stage"> & { story: StageStory }) {
  const { bar } = story;
  const client = useQueryClient();
  const toast = useToast();
  const told = useTold();
  const [why, setWhy] = useState("");
  const look = useQuery({ ...moveQuery(bar.key, begins ?? "", view.mark), enabled: begins !== null });
  const send = useMutation({
    mutationFn: (to: string | null) => put("/waves/fixed", { stage: bar.key, begins: to, why }),
    onSuccess: (_answer, to) => {
      void client.invalidateQueries({ queryKey: ["waves"] });
      const before = bar.fixed;
      toast(to ? `${bar.name} ${bar.number} begins on ${day(to)}.` : `${bar.name} ${bar.number} moves to where it costs least.`, {
        undo: () => void put("/waves/fixed", { stage: bar.key, begins: before, why: "taken back" }).then(() => client.invalidateQueries({ queryKey: ["waves"] }), told),
      });
      close();
    },
    onError: told,
  });
  return (
    <div>
      <div className="flex items-baseline justify-between">
        <h3 className="font-bold">Put it on another day</h3>
        <button type="button" className="press press-quiet" onClick={close}>
          Close <kbd className="key">Esc</kbd>
        </button>
      </div>
      <div className="my-1 flex flex-wrap items-center gap-2">
        <input type="date" className="field w-40" aria-label="Begins on" min={view.today} value={begins ?? bar.fixed ?? ""} onChange={(e) => setBegins(e.target.value || null)} />
        <input className="field w-44" aria-label="Why" placeholder="why (optional)" value={why} onChange={(e) => setWhy(e.target.value)} />
      </div>
      {begins === null && <p className="quiet">Choose a day, or drag the block: what slips is seen first.</p>}
      {look.isError && <p className="text-[var(--rose-text)]">{problemOf(look.error)}</p>}
      {look.data && <Outcome look={look.data} />}
      <div className="mt-2 flex gap-2">
        <button type="button" className="press press-main" disabled={begins === null || send.isPending} onClick={() => send.mutate(begins)}>
          Put it there
        </button>
        {bar.fixed && (
          <button type="button" className="press" disabled={send.isPending} onClick={() => send.mutate(null)}>
            Let it go
          </button>
        )}
      </div>
    </div>
  );
}

function Outcome({ look }: { look: MoveView }) {
  const more = look.misses - look.misses_now;
  return (
    <div>
      <p>
        From <b>{day(look.bar.starts)}</b>, live <b>{day(look.bar.live)}</b>
        {look.bar.misplaced && " (it cannot begin on that day)"}.{" "}
        {more > 0 ? <b className="text-[var(--rose-text)]">{more} more {more === 1 ? "line is" : "lines are"} left too late.</b> : more < 0 ? `${-more} fewer left too late.` : "No line is left later than its support for it."}
      </p>
      {look.slips.length > 0 ? <Slips slips={look.slips} /> : <p className="quiet">Nothing else slips.</p>}
    </div>
  );
}

function Slips({ slips }: { slips: Slip[] }) {
  return (
    <ul className="mt-1">
      {slips.slice(0, 5).map((one) => (
        <li key={one.key} className="flex justify-between gap-3">
          <span className="truncate" title={`${one.name} ${one.number} ${one.title}`}>
            {one.name} {one.number || ""}
          </span>
          <span className={one.late ? "font-semibold whitespace-nowrap text-[var(--rose-text)]" : "quiet whitespace-nowrap"}>
            {slip(one.days)}
            {one.late && ", after support"}
          </span>
        </li>
      ))}
      {slips.length > 5 && <li className="quiet">and {slips.length - 5} more</li>}
    </ul>
  );
}
