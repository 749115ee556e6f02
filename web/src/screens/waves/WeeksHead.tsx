/** The months over the waves, and today. */
import type { FreezeView } from "../../api/types";
import { DAY, dateOf } from "../../lib/format";
import { at, months, type Scale } from "./geometry";

export function WeeksHead({ scale, today, freezes }: { scale: Scale; today: string; freezes: FreezeView[] }) {
  const now = at(scale, dateOf(today));
  const shown = freezes.map((freeze) => ({ freeze, x: at(scale, dateOf(freeze.first)), right: at(scale, dateOf(freeze.last) + DAY) })).filter(({ x }) => x < scale.width);
  const foot = shown.length ? 42 : 26;
  return (
    <svg width={scale.width} height={shown.length ? 42 : 26} aria-hidden="true" className="block overflow-visible">
      {months(scale).map((month) => (
        <g key={month.label + String(month.x)}>
          <path d={`M${month.x} 8V${foot}`} stroke="var(--rule)" />
          <text x={month.x + 5} y={17} fontSize="13" fontWeight="700" fill="var(--ink)">
            {month.label}
          </text>
        </g>
      ))}
      {shown.map(({ freeze, x, right }) => (
        <g key={freeze.first + freeze.title}>
          <rect x={x} y={25} width={Math.max(Math.min(right, scale.width) - x, 2)} height={17} fill="var(--unknown)" />
          <text x={x + 4} y={37.5} fontSize="11.5" fill="var(--ink2)">
            {freeze.title}
          </text>
        </g>
      ))}
      <path d={`M${now} 0V${foot}`} stroke="var(--press)" strokeWidth="1.8" />
    </svg>
  );
}
