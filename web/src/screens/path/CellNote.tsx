/** One cell of the grid: the line, and on a press why it stands there, which release, and how to bend it. */
import { useCallback, useRef, useState } from "react";

import type { Stage, TrackView } from "../../api/types";
import { useDismiss } from "../../lib/dismiss";
import { day } from "../../lib/format";
import { shortOf } from "../../lib/coordinates";
import { type Key } from "./shape";

type Props = { stage: Stage; track: TrackView; bend: (key: Key, value: string) => void };

export function CellNote({ stage, track, bend }: Props) {
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLSpanElement>(null);
  useDismiss(open, box, useCallback(() => setOpen(false), []));
  const cell = stage.cells.find((c) => c.coordinate === track.coordinate);
  if (!cell) return <span className="quiet px-2">–</span>;
  const facts = track.lines.find((l) => l.line === cell.line);
  const release = stage.number > 0 && cell.release !== cell.line ? cell.release : "";
  return (
    <span ref={box} className="relative inline-flex items-center gap-2">
      <button
        type="button"
        aria-expanded={open}
        aria-label={`${track.name} ${cell.line}${cell.moved ? ", moves here" : ""}: why`}
        className={`code min-w-[72px] rounded px-2 py-0.5 text-left ${cell.moved ? "font-semibold" : "quiet"}`}
        style={cell.moved ? { background: "var(--amber)", color: "var(--on-light)" } : {}}
        onClick={() => setOpen(!open)}
      >
        {cell.line}
      </button>
      {cell.moved && cell.tied && <span title={cell.reason} className="quiet max-w-[200px] truncate pl-5 text-[12.5px]">{cell.reason}</span>}
      {open && (
        <span role="note" className="dialog absolute top-full left-0 z-30 mt-1 block w-[330px] p-3 text-left text-[13px] leading-snug whitespace-normal">
          <b className="block text-[14px]">
            {track.name} {cell.line}
          </b>
          {cell.reason && (
            <span className="mt-1 block">
              {cell.reason}
              {cell.grade && <span className="quiet"> ({cell.grade}{cell.source ? `: ${cell.source}` : ""})</span>}
            </span>
          )}
          {release && <span className="mt-1 block">Release to take: <code>{release}</code></span>}
          {facts && (
            <span className="quiet mt-1 block">
              {facts.support_ends ? `Support ends ${day(facts.support_ends)}` : "When support ends is not known"}
              {facts.kind === "long-term" ? ", long-term" : ""}
            </span>
          )}
          {stage.number > 0 && (
            <span className="mt-2 flex flex-wrap gap-1">
              <button type="button" className="press" onClick={() => bend("pin", `${shortOf(track.coordinate)}@${cell.line}`)}>
                Pin {cell.line}
              </button>
              {cell.line !== track.goal && (
                <button type="button" className="press" onClick={() => bend("avoid", `${shortOf(track.coordinate)}@${cell.line}`)}>
                  Never {cell.line}
                </button>
              )}
              <button type="button" className="press" onClick={() => bend(track.named ? "out" : "drop", shortOf(track.coordinate))}>
                {track.named ? (track.out ? "Include it again" : "Leave it out") : "Ignore it"}
              </button>
            </span>
          )}
        </span>
      )}
    </span>
  );
}
