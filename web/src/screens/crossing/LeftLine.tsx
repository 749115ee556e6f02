/** Routes that are left on the old side, since the move began. */
import { stepped, type LeftOn } from "./steps";

const WIDE = 120;
const HIGH = 22;

export function LeftLine({ rows }: { rows: LeftOn[] }) {
  const points = stepped(rows, WIDE, HIGH);
  if (points.length === 0) return null;
  const line = points.map(([x, y]) => `${x},${y}`).join(" ");
  const told = `${rows[0]?.left ?? 0} routes were left when it began, ${rows.at(-1)?.left ?? 0} are left now`;
  return (
    <svg width={WIDE + 8} height={HIGH + 6} viewBox={`-4 -3 ${WIDE + 8} ${HIGH + 6}`} role="img" aria-label={told} className="shrink-0">
      <title>{told}</title>
      <polygon points={`0,${HIGH} ${line} ${WIDE},${HIGH}`} fill="var(--amber)" opacity={0.25} />
      <polyline points={line} fill="none" stroke="var(--amber)" strokeWidth={2} />
      <line x1={0} x2={WIDE} y1={HIGH} y2={HIGH} stroke="var(--line)" />
      <circle cx={WIDE} cy={points.at(-1)?.[1]} r={3} fill="var(--ink)" />
    </svg>
  );
}
