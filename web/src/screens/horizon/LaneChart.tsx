/** The light falling on one application: a strip a line it stands on, planned stages, arrival with its whisker. */
import type { Row } from "../../api/types";
import { type Axis, type Light, place, stretches, ticks } from "../../lib/axis";
import { dateOf, day } from "../../lib/format";

const FILL: Record<Light, string> = { supported: "var(--day)", fading: "url(#light-fade)", dark: "url(#light-dark)", unknown: "url(#light-unknown)" };
export const ROW_HEIGHT = 50;

/** Patterns shared by all lanes; drawn once on the page. */
export function LightPatterns() {
  return (
    <svg width="0" height="0" className="absolute" aria-hidden="true">
      <defs>
        <linearGradient id="light-fade">
          <stop offset="0" stopColor="var(--day)" />
          <stop offset="0.4" stopColor="var(--amber)" />
          <stop offset="0.75" stopColor="var(--rose)" />
          <stop offset="1" stopColor="var(--dusk)" />
        </linearGradient>
        <pattern id="light-dark" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--night)" />
          <path d="M0 0V6" stroke="var(--night-stripe)" strokeWidth="2" />
        </pattern>
        <pattern id="light-unknown" width="6" height="6" patternUnits="userSpaceOnUse">
          <rect width="6" height="6" fill="var(--unknown)" />
          <circle cx="3" cy="3" r="1" fill="var(--unknown-dot)" />
        </pattern>
      </defs>
    </svg>
  );
}

type Props = { row: Row; axis: Axis; width: number; today: string };

export function LaneChart({ row, axis, width, today }: Props) {
  const x = (at: number) => place(axis, at) * width;
  const strip = row.lanes.length > 2 ? 24 / row.lanes.length : 9;
  const top = ROW_HEIGHT - 8 - Math.max(row.lanes.length, 1) * (strip + 1);
  return (
    <svg width={width} height={ROW_HEIGHT} role="img" aria-label={spoken(row)} className="block">
      {ticks(axis).map((tick) => (
        <path key={tick.at} d={`M${x(tick.at)} 0V${ROW_HEIGHT}`} stroke="var(--rule)" />
      ))}
      {row.lanes.map((lane, index) =>
        stretches(lane, axis).map((s) => (
          <rect key={`${lane.coordinate}${s.from}${s.light}`} x={x(s.from)} y={top + index * (strip + 1)} width={Math.max(x(s.to) - x(s.from), 0)} height={strip} fill={FILL[s.light]}>
            <title>{`${lane.name} ${s.line}: ${s.ends ? `support ends ${day(s.ends)}` : "support end not known"}`}</title>
          </rect>
        )),
      )}
      {row.lanes.length === 0 && <rect x={0} y={top} width={width} height={strip} fill={FILL.unknown} />}
      <Stages row={row} x={x} />
      <path d={`M${x(dateOf(today))} 0V${ROW_HEIGHT}`} stroke="var(--press)" strokeWidth="1.6" />
    </svg>
  );
}

function Stages({ row, x }: { row: Row; x: (at: number) => number }) {
  const arrival = row.arrival50 ? x(dateOf(row.arrival50)) : null;
  const whisker = row.arrival80 ? x(dateOf(row.arrival80)) : null;
  return (
    <g>
      {row.stages.map((stage) => {
        const [left, right] = [x(dateOf(stage.starts)), x(dateOf(stage.arrives50))];
        const size = right - left - 1.5;
        return (
          <g key={stage.number}>
            <title>{`stage ${stage.number}: ${stage.label}, by ${day(stage.arrives50)} (50 %)`}</title>
            <rect x={left} y={4.5} width={Math.max(size, 1.5)} height={15} rx={2.5} fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.1" />
            {size > stage.label.length * 7 && (
              <text x={left + size / 2} y={16} textAnchor="middle" fontSize="11.5" fontWeight="600" fill="var(--ink)">
                {stage.label}
              </text>
            )}
          </g>
        );
      })}
      {arrival !== null && whisker !== null && (
        <g stroke="var(--ink)" strokeWidth="1.2">
          <path d={`M${arrival} 12H${Math.max(whisker, arrival)}M${whisker} 8V16`} />
          <circle cx={arrival} cy={12} r={4.6} fill="var(--amber)" />
        </g>
      )}
    </g>
  );
}

function spoken(row: Row): string {
  if (row.lanes.length === 0) return `${row.name}: not known what it stands on`;
  const dark = row.unsupported_since ? `unsupported since ${day(row.unsupported_since)}` : "supported today";
  const arrival = row.arrival50 ? `, arrives ${day(row.arrival50)} at 50 %, ${day(row.arrival80)} at 80 %` : "";
  return `${row.name}: ${dark}${arrival}`;
}
