/** Which routes move together, and in which order: proposals, and one's own. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { proposalsQuery } from "../../api/queries";
import type { SliceBasis, ProposedSlice } from "../../api/types";
import { Dialog } from "../../components/Dialog";
import { Failed, Waiting } from "../../components/States";
import { moved } from "./order";
import { useCrossing } from "./useCrossing";
import { figure } from "../../lib/format";

const WORDS: Record<SliceBasis, string> = { prefix: "the beginning of their paths", code: "the code they share", tables: "the tables they touch" };

export function SlicesDialog({ slug, close }: { slug: string; close: () => void }) {
  const [by, setBy] = useState<SliceBasis>("prefix");
  const query = useQuery(proposalsQuery(slug, by));
  return (
    <Dialog title="Slices" close={close} wide>
      <label className="flex items-center gap-2 text-[14px]">
        Routes belong together by
        <select className="field" value={by} onChange={(event) => setBy(event.target.value as SliceBasis)}>
          {(Object.keys(WORDS) as SliceBasis[]).map((each) => (
            <option key={each} value={each}>
              {WORDS[each]}
            </option>
          ))}
        </select>
      </label>
      {query.isPending && <Waiting what="proposals" />}
      {query.isError && <Failed error={query.error} />}
      {query.data && <Order key={by} slug={slug} proposed={query.data} close={close} />}
    </Dialog>
  );
}

function Order({ slug, proposed, close }: { slug: string; proposed: ProposedSlice[]; close: () => void }) {
  const [order, setOrder] = useState(proposed);
  const [dragged, setDragged] = useState<number | null>(null);
  const { slices } = useCrossing(slug);
  const most = Math.max(...order.map((each) => each.own + each.shared), 1);
  const shift = (from: number, to: number) => setOrder((before) => moved(before, from, to));
  return (
    <>
      <p className="quiet mt-2 text-[13px]">The order pays early: most calls for each line that is not there yet. Drag a slice, or use the arrows.</p>
      <ol className="mt-2 max-h-[46vh] overflow-y-auto text-[13.5px]">
        {order.map((each, i) => (
          <li
            key={each.name}
            draggable
            onDragStart={() => setDragged(i)}
            onDragOver={(event) => event.preventDefault()}
            onDrop={() => {
              if (dragged !== null) shift(dragged, i);
              setDragged(null);
            }}
            className={`grid cursor-grab grid-cols-[26px_1fr_90px_120px_150px_64px] items-center gap-2 border-b py-1 hair ${dragged === i ? "opacity-50" : ""}`}
          >
            <span className="quiet text-right">{i + 1}</span>
            <b className="truncate" title={each.routes.join("\n")}>
              {each.name}
            </b>
            <span className="quiet">
              {each.routes.length} {each.routes.length === 1 ? "route" : "routes"}
            </span>
            <span className="quiet text-right">{figure(Math.round(each.weekly))} a week</span>
            <span title={`${each.own} lines of its own, ${each.shared} that others need too`}>
              <span className="inline-block h-[10px] bg-[var(--amber)] align-middle" style={{ width: (each.own / most) * 96 }} />
              <span className="inline-block h-[10px] bg-[var(--line)] align-middle opacity-60" style={{ width: (each.shared / most) * 96 }} /> <span className="quiet text-[12px]">{each.own + each.shared}</span>
            </span>
            <span className="flex gap-1">
              <button type="button" className="press press-quiet" aria-label={`${each.name} earlier`} disabled={i === 0} onClick={() => shift(i, i - 1)}>
                ↑
              </button>
              <button type="button" className="press press-quiet" aria-label={`${each.name} later`} disabled={i === order.length - 1} onClick={() => shift(i, i + 1)}>
                ↓
              </button>
            </span>
          </li>
        ))}
      </ol>
      <div className="mt-3 flex justify-end gap-2">
        <button type="button" className="press" onClick={() => slices.mutate([], { onSuccess: close })}>
          Propose anew each time
        </button>
        <button type="button" className="press press-main" disabled={order.length === 0} onClick={() => slices.mutate(order.map(({ name, routes }) => ({ name, routes })), { onSuccess: close })}>
          Keep these slices
        </button>
      </div>
    </>
  );
}
