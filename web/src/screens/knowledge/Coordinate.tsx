/** One coordinate: its lines and their dates on a time axis, and how each was read. */
import type { CoordinateInfo } from "../../api/types";
import { DAY, dateOf, day, plural } from "../../lib/format";

const START = dateOf("2017-01-01");

export function Coordinate({ coordinate, now }: { coordinate: CoordinateInfo; now: number }) {
  const end = now + 5.2 * 365 * DAY;
  const share = (at: number) => `${(100 * Math.min(Math.max((at - START) / (end - START), 0), 1)).toFixed(2)}%`;
  return (
    <section aria-label={coordinate.name} className="mb-8">
      <h2 className="text-[18px] font-bold">
        {coordinate.name} <code className="quiet font-normal">{coordinate.short}</code>
      </h2>
      <p className="quiet mb-2 text-[13.5px]">
        {plural(coordinate.symbols, "symbol")}, {plural(coordinate.rules, "rule")}
        {coordinate.source && ` · dates: ${coordinate.source}${coordinate.recalled ? ", recalled and not verified" : ""}, as of ${day(coordinate.as_of)}`}
      </p>
      <ul className="relative text-[13.5px]">
        {coordinate.lines.map((line) => {
          const [from, to] = [line.released ? dateOf(line.released) : START, line.support_ends ? dateOf(line.support_ends) : null];
          return (
            <li key={line.line} className="grid grid-cols-[56px_90px_minmax(0,1fr)_210px_230px] items-center gap-3 border-b py-0.5 hair">
              <b>{line.line}</b>
              <span className="quiet">{line.kind}</span>
              <span className="relative h-3">
                {to !== null && (
                  <span
                    className="absolute inset-y-0"
                    style={{
                      left: share(from),
                      width: `calc(${share(to)} - ${share(from)})`,
                      background: to < now ? "repeating-linear-gradient(135deg, var(--night) 0 4px, var(--night-stripe) 4px 6px)" : "var(--day)",
                      outline: to < now ? "none" : "1px solid var(--line)",
                    }}
                  />
                )}
                <span className="absolute -inset-y-1 w-[1.5px]" style={{ left: share(now), background: "var(--press)" }} />
              </span>
              <span>
                {to === null ? <span className="quiet">end not known</span> : to < now ? `unsupported since ${day(line.support_ends)}` : `until ${day(line.support_ends)}`}
              </span>
              <span className="quiet truncate" title={line.runs_on.length ? `states support for Python ${line.runs_on.join(", ")}` : ""}>
                {line.captured ? `captured: ${line.release}, ${line.how}` : "not captured"}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
