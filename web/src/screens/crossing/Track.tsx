/** A line from the old side to the new, and how far along it a route is. */
import type { RouteRow } from "../../api/types";
import { place, spoken, STOPS, tone } from "./track";

const WIDE = 240;

export function Track({ route }: { route: RouteRow }) {
  const at = place(route.standing, route.share) * WIDE;
  const fell = route.fell_back !== "";
  const shown = fell ? `${spoken(route.standing, route.share)}, fell back to old` : spoken(route.standing, route.share);
  return (
    <svg width={WIDE + 24} height={26} viewBox={`-12 -13 ${WIDE + 24} 26`} role="img" aria-label={`stands ${shown}`} className="block overflow-visible">
      <line x1={0} x2={WIDE} y1={0} y2={0} stroke="var(--rule)" strokeWidth={4} />
      <line x1={0} x2={at} y1={0} y2={0} stroke={route.standing === "new" ? "var(--day)" : "var(--amber)"} strokeWidth={4} strokeDasharray={fell ? "3 3" : undefined} />
      {STOPS.map((stop) => (
        <circle key={stop} cx={place(stop, 0) * WIDE} cy={0} r={3.2} fill="var(--sheet)" stroke="var(--ink2)" />
      ))}
      {fell && <circle cx={0} cy={0} r={6.5} fill="var(--night)" stroke="var(--ink)" strokeWidth={1.4} />}
      <circle cx={at} cy={0} r={7} fill={fell ? "var(--sheet)" : tone(route.standing)} stroke={fell ? "var(--rose)" : "var(--ink)"} strokeWidth={1.5} />
      {route.standing === "shared" && (
        <text x={at} y={-9.5} textAnchor="middle" fontSize={10.5} fill="var(--ink2)">
          {route.share} %
        </text>
      )}
    </svg>
  );
}
