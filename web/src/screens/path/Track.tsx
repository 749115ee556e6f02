/** The chosen path as one track over days of work, stage borders where they fall. */
import { useRef } from "react";

import type { PathView } from "../../api/types";
import { day, effort } from "../../lib/format";
import { useWidth } from "../../lib/width";
import { pieces, scaleMarks } from "./track";

export function Track({ path }: { path: PathView }) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box, 800);
  const { application } = path;
  const most = Math.max(application.effort80, 0.1);
  const x = (days: number) => (days / most) * (width - 8);
  return (
    <div className="grid grid-cols-[170px_minmax(0,1fr)_330px] items-end border-b pb-3 hair">
      <div>
        <b>Hop by hop</b>
        <div className="quiet text-[13px]">in place, one stage after another</div>
      </div>
      <div ref={box}>
        <svg width={width} height={58} role="img" aria-label={`${path.stages.length - 1} stages, ${effort(application.effort50)} of work at 50 %`}>
          {scaleMarks(most).map((mark) => (
            <g key={mark}>
              <path d={`M${x(mark) + 1} 16V58`} stroke="var(--rule)" />
              <text x={x(mark) + 1} y={11} fontSize="12" textAnchor={mark === 0 ? "start" : "middle"} fill="var(--ink2)">
                {mark} d
              </text>
            </g>
          ))}
          {pieces(path.stages).map((piece) => {
            const size = x(piece.to) - x(piece.from);
            return (
              <g key={piece.number}>
                <title>{`${piece.number === 0 ? "before any version moves" : `stage ${piece.number}`}: ${effort(piece.to - piece.from)}`}</title>
                <rect x={x(piece.from) + 1} y={24} width={Math.max(size - 2, 1)} height={24} rx={3} fill={`var(--${piece.tone})`} />
                {size > piece.label.length * 7 + 12 && (
                  <text x={x(piece.from) + 9} y={40.5} fontSize="12.5" fontWeight="600" fill={piece.tone === "dusk" ? "var(--on-night)" : "var(--on-light)"}>
                    {piece.label}
                  </text>
                )}
              </g>
            );
          })}
          <path d={`M${x(application.effort50)} 36H${x(application.effort80)}M${x(application.effort80)} 31V41`} stroke="var(--ink)" strokeWidth="1.2" />
        </svg>
      </div>
      <dl className="grid grid-cols-4 pl-4 text-right text-[13.5px]">
        {[
          ["stages", String(path.stages.length - 1)],
          ["50–80 %", `${effort(application.effort50)}–${effort(application.effort80)}`],
          ["in the dark", application.dark_days > 0 ? `${Math.round(application.dark_days / 7)} w` : "none"],
          ["arrives", application.arrival50 ? day(application.arrival50).replace(/ \d{4}$/, "") : "is there"],
        ].map(([name, value]) => (
          <div key={name}>
            <dt className="quiet text-[12.5px]">{name}</dt>
            <dd className={name === "arrives" ? "font-bold" : ""}>{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
