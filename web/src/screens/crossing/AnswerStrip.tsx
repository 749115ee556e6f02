/** The latest comparisons of a route: a bar each, full and light where alike, short and marked where not. */
import { bars } from "./track";

const MOST = 40;
const STEP = 5.4;

export function AnswerStrip({ strip }: { strip: boolean[] }) {
  const differ = strip.filter((alike) => !alike).length;
  const told = strip.length === 0 ? "nothing compared yet" : `${strip.length - differ} of the last ${strip.length} answers alike`;
  return (
    <svg width={MOST * STEP} height={14} role="img" aria-label={told} className="block">
      <title>{told}</title>
      {strip.length === 0 ? (
        <line x1={0} x2={MOST * STEP} y1={7} y2={7} stroke="var(--line)" strokeDasharray="3 2.4" />
      ) : (
        bars(strip, MOST).map(({ x, alike }) => <rect key={x} x={x * STEP} y={alike ? 0.5 : 0} width={3.6} height={alike ? 13 : 14} fill={alike ? "var(--day)" : "var(--rose)"} stroke={alike ? "var(--line)" : "none"} strokeWidth={alike ? 0.4 : 0} />)
      )}
    </svg>
  );
}
