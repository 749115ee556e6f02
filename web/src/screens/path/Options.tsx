/** All ways under one another on one scale of work: stages, effort, days in the dark and arrival at the end of each. */
import { type KeyboardEvent, useRef } from "react";

import type { PathView, Way } from "../../api/types";
import { Explain } from "../../components/Explain";
import { day, effort, shortDay } from "../../lib/format";
import { useWidth } from "../../lib/width";
import { pieces, scaleMarks } from "./track";

const GRID = "grid grid-cols-[206px_minmax(0,1fr)_52px_96px_78px_92px] items-center gap-x-2";

type Props = { path: PathView; chosen: string; choose: (key: string) => void };

export function Options({ path, chosen, choose }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const width = useWidth(box, 620);
  const most = Math.max(...path.ways.map((w) => w.effort80), 0.1);
  const x = (days: number) => (days / most) * (width - 4) + 1;
  const walk = (event: KeyboardEvent) => {
    const step = event.key === "ArrowDown" || event.key === "j" ? 1 : event.key === "ArrowUp" || event.key === "k" ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    const at = path.ways.findIndex((w) => w.key === chosen);
    const next = path.ways[Math.min(Math.max(at + step, 0), path.ways.length - 1)];
    if (!next) return;
    choose(next.key);
    document.getElementById(`way-${next.key}`)?.focus();
  };
  return (
    <section aria-label="Options" className="mt-1 border-b pb-2 hair" onKeyDown={walk}>
      <div className={`${GRID} quiet px-3 pt-1 text-[12.5px]`} aria-hidden="true">
        <span>options</span>
        <div ref={box}>
          <svg width={width} height={18} className="block overflow-visible">
            {scaleMarks(most).map((mark) => (
              <text key={mark} x={x(mark)} y={13} fontSize="12.5" textAnchor={mark === 0 ? "start" : x(mark) > width - 14 ? "end" : "middle"} fill="var(--ink2)">
                {mark} d
              </text>
            ))}
          </svg>
        </div>
        <span className="text-right">stages</span>
        <span className="text-right">50–80 %</span>
        <span className="text-right">in the dark</span>
        <span className="text-right">arrives</span>
      </div>
      <ul>
        {path.ways.map((way) => (
          <WayRow key={way.key} way={way} path={path} on={way.key === chosen} choose={choose} width={width} x={x} marks={scaleMarks(most)} />
        ))}
      </ul>
    </section>
  );
}

type RowProps = { way: Way; path: PathView; on: boolean; choose: (key: string) => void; width: number; x: (days: number) => number; marks: number[] };

function WayRow({ way, path, on, choose, width, x, marks }: RowProps) {
  const stages = way.stages.length - 1;
  return (
    <li className={`${GRID} lifts relative rounded px-3 ${on ? "sheet" : "hover:bg-[var(--hover)]"}`}>
      {on && <span aria-hidden="true" className="absolute inset-y-0 left-0 w-[3px]" style={{ background: "var(--press)" }} />}
      <button id={`way-${way.key}`} type="button" aria-pressed={on} className="min-w-0 py-1.5 text-left before:absolute before:inset-0" onClick={() => choose(way.key)}>
        <b className="block truncate text-[14.5px] leading-tight" title={way.title}>
          {way.title}
        </b>
        <span className="quiet block truncate text-[12.5px] leading-tight" title={way.subtitle}>
          {way.adopted && <b>adopted · </b>}
          {way.recommended && <b>recommended · </b>}
          {way.subtitle}
          {!way.proven && way.objectives.length > 0 ? ", not proven best" : ""}
        </span>
      </button>
      <svg width={width} height={42} className="block overflow-visible" role="img" aria-label={`${way.title}: ${stages} stages, ${effort(way.effort50)} at 50 %`}>
        {marks.map((mark) => (
          <path key={mark} d={`M${x(mark)} 0V42`} stroke="var(--rule)" />
        ))}
        {pieces(way, path.tracks).map((piece) => {
          const size = x(piece.to) - x(piece.from);
          return (
            <g key={piece.number}>
              <title>{`${piece.number === 0 ? "before any version moves" : `stage ${piece.number}: ${piece.label}`}, ${effort(piece.to - piece.from)}`}</title>
              <rect x={x(piece.from)} y={9} width={Math.max(size - 2, 1)} height={24} rx={3} fill={`var(--${piece.tone})`} />
              {size > piece.label.length * 6.6 + 14 && (
                <text x={x(piece.from) + 8} y={25.5} fontSize="12.5" fontWeight="600" fill={piece.tone === "dusk" ? "var(--on-night)" : "var(--on-light)"}>
                  {piece.label}
                </text>
              )}
            </g>
          );
        })}
        <path d={`M${x(way.effort50)} 21H${x(way.effort80)}M${x(way.effort80)} 16V26`} stroke="var(--ink)" strokeWidth="1.2" />
      </svg>
      <span className="text-right">{stages}</span>
      <Figure label={`How the effort of ${way.title} is computed`} figure={`${effort(way.effort50).replace(" d", "")}–${effort(way.effort80)}`}>
        Work of a stage = {path.base_days} d, {path.line_days} d for each line and {path.major_days} d for each major of a framework that it crosses, and its edits × (1 + {path.kappa} × (lines crossed −
        1)). What is safe now counts once. Sums are drawn 2,000 times, and spread by what no scan sees: the more lines and packages move, the less is known and the fewer tests there are, the wider. These are
        the days at 50 % and at 80 %.
      </Figure>
      <Figure label={`How the time in the dark of ${way.title} is computed`} figure={way.dark_days > 0 ? (way.dark_days < 14 ? `${way.dark_days} d` : `${Math.round(way.dark_days / 7)} w`) : "none"}>
        {way.dark_days} days from today until arrival on lines without support, each line counted for itself, at {path.application.days_per_week} days of work a week.
      </Figure>
      <b className="text-right" title={`80 %: ${day(way.arrival80)}`}>
        {shortDay(way.arrival50)}
      </b>
    </li>
  );
}

function Figure({ label, figure, children }: { label: string; figure: string; children: React.ReactNode }) {
  return (
    <span className="relative text-right">
      <Explain label={label} figure={figure}>
        {children}
      </Explain>
    </span>
  );
}
