/** The version grid of one way: coordinates down, stages across; what moves is inked, what moves together is bracketed, a cell says why. */
import { useState } from "react";

import type { PathView, Stage, TrackView, Way } from "../../api/types";
import { effort, plural, shortDay } from "../../lib/format";
import { CellNote } from "./CellNote";
import type { Key } from "./shape";
import { StageSheet } from "./StageSheet";
import { bracket, gridRows } from "./track";

const FIRST = "sticky left-0 z-[2] pr-3";
const PAPER = { background: "var(--paper)" };
export const ROW = 31;

type Props = { path: PathView; way: Way; bend: (key: Key, value: string) => void; foot: React.ReactNode };

export function Grid({ path, way, bend, foot }: Props) {
  const [all, setAll] = useState(false);
  const { shown, still } = gridRows(way, path.tracks);
  const rows = all ? [...shown, ...still] : shown;
  return (
    <div className="overflow-x-auto pt-3 pb-2" tabIndex={0} role="region" aria-label={`Stages of ${way.title}`}>
      <table className="border-separate border-spacing-0 text-[14px]">
        <thead>
          <tr className="align-bottom">
            <td className={`${FIRST} w-[206px] min-w-[206px]`} style={PAPER} />
            {way.stages.map((stage) => (
              <th key={stage.number} scope="col" className="min-w-[290px] pr-6 pb-2 text-left font-normal">
                <StageHead stage={stage} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((track, at) => (
            <tr key={track.coordinate} style={{ height: ROW }}>
              <th scope="row" className={`${FIRST} max-w-[206px] truncate border-b text-left font-normal hair`} style={PAPER} title={track.coordinate}>
                <code>{track.name}</code>
                {track.out && <span className="quiet text-[12px]"> left out</span>}
              </th>
              {way.stages.map((stage) => (
                <td key={stage.number} className="relative border-b hair">
                  <CellNote stage={stage} track={track} bend={bend} />
                  {at === 0 && <Bracket stage={stage} rows={rows} />}
                </td>
              ))}
            </tr>
          ))}
          {still.length > 0 && (
            <tr>
              <th scope="row" colSpan={1} className={`${FIRST} py-1 text-left font-normal`} style={PAPER}>
                <button type="button" className="quiet text-[13px] underline" aria-expanded={all} onClick={() => setAll(!all)}>
                  {all ? "hide what stays" : still.length === 1 ? "1 package stays where it is" : `${still.length} packages stay where they are`}
                </button>
              </th>
            </tr>
          )}
          <tr className="align-top">
            <th scope="row" className={`${FIRST} pt-3 text-left font-normal`} style={PAPER}>
              {foot}
            </th>
            {way.stages.map((stage) => (
              <td key={stage.number} className="max-w-[330px] min-w-[270px] pt-3 pr-6">
                <StageSheet stage={stage} slug={path.application.slug} />
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </div>
  );
}

function StageHead({ stage }: { stage: Stage }) {
  const open = stage.open_count;
  if (stage.number === 0) {
    return (
      <>
        <h2 className="text-[15.5px] font-bold">Before any version moves</h2>
        <span className="quiet text-[13px]">
          {open === 0 ? "nothing left to change" : `${plural(open, "change")} ${open === 1 ? "is" : "are"} safe now`} · {effort(stage.effort50)}
        </span>
      </>
    );
  }
  return (
    <>
      <h2 className="text-[15.5px] font-bold">
        Stage {stage.number}
        {stage.title ? `: ${stage.title}` : ""}
      </h2>
      <span className="quiet block text-[13px]">
        {open === 0 ? "no change goes with it" : `${plural(open, "change")} ${open === 1 ? "goes" : "go"} with it`} · {effort(stage.effort50)} · by {shortDay(stage.arrives50)}
      </span>
    </>
  );
}

/** Linked squares: these move together. Drawn once a column, over its rows. */
function Bracket({ stage, rows }: { stage: Stage; rows: TrackView[] }) {
  const tied = rows.flatMap((track, at) => (stage.cells.some((c) => c.coordinate === track.coordinate && c.tied) ? [at] : []));
  const drawn = bracket(tied, ROW);
  if (!drawn) return null;
  return (
    <svg aria-label={`${tied.length} move together`} role="img" width={20} height={drawn.size + 12} className="pointer-events-none absolute left-[80px] z-[1] overflow-visible" style={{ top: drawn.top - 6 }}>
      <g transform="translate(0 6)" fill="none" stroke="var(--ink)" strokeWidth="1.2">
        <path d={drawn.path} />
        <rect x={7.5} y={drawn.square - 4.5} width={9} height={9} fill="var(--paper)" />
      </g>
    </svg>
  );
}
