/** Routes in slices: how often each is called, where it stands, how alike the answers are, and what moves it next. */
import type { RouteRow, SliceBand } from "../../api/types";
import { AnswerStrip } from "./AnswerStrip";
import { Track } from "./Track";
import { inPieces } from "./routePath";
import { calls } from "./track";

type Props = { bands: SliceBand[]; counted: boolean; chosen: string; choose: (name: string) => void };

const WIDE = "grid grid-cols-[52px_minmax(150px,1.2fr)_minmax(110px,0.8fr)_64px_84px_276px_228px_minmax(130px,1fr)] items-center gap-x-2 px-3";
/** Characters that a word after a path takes. */
const NOTED = 14;

/** Beside an open route, which shows the answers itself. */
const NARROW = "grid grid-cols-[46px_minmax(110px,1fr)_minmax(80px,0.7fr)_52px_264px_minmax(120px,0.9fr)] items-center gap-x-2 px-3";

export function Bands({ bands, counted, chosen, choose }: Props) {
  const narrow = chosen !== "";
  const columns = narrow ? NARROW : WIDE;
  const most = Math.max(...bands.flatMap((band) => band.routes.map((route) => route.weekly)), 1);
  return (
    <div className={narrow ? "min-w-[740px]" : "min-w-[1180px]"}>
      <div className={`${columns} quiet pb-1 text-[12px]`} aria-hidden="true">
        <span>route</span>
        <span />
        <span>slice</span>
        <span className="text-right">a week</span>
        {!narrow && <span />}
        <Stops />
        {!narrow && <span>answers alike, last 40</span>}
        <span>what moves it next</span>
      </div>
      {bands.map((band) => (
        <Band key={band.name} band={band} most={most} chosen={chosen} choose={choose} narrow={narrow} counted={counted} />
      ))}
    </div>
  );
}

function Stops() {
  return (
    <span className="relative block h-4">
      {["old", "mirrored", "shared", "new"].map((name, i) => (
        <span key={name} className="absolute -translate-x-1/2" style={{ left: 12 + (i * 240) / 3 }}>
          {name}
        </span>
      ))}
    </span>
  );
}

function Band({ band, most, chosen, choose, narrow, counted }: { counted: boolean; band: SliceBand; most: number; chosen: string; choose: (name: string) => void; narrow: boolean }) {
  return (
    <section aria-label={`Slice ${band.name}`} className={`sheet mb-2 rounded-md border py-1 hair ${band.quiet ? "bg-[var(--paper)]" : ""}`}>
      {band.routes.map((route, i) => (
        <RouteLine key={route.name} route={route} band={i === 0 ? band : undefined} most={most} chosen={chosen === route.name} choose={choose} narrow={narrow} counted={counted} />
      ))}
    </section>
  );
}

type LineProps = { route: RouteRow; band: SliceBand | undefined; most: number; chosen: boolean; choose: (name: string) => void; narrow: boolean; counted: boolean };

function RouteLine({ route, band, most, chosen, choose, narrow, counted }: LineProps) {
  const stops = route.stop === "differs" || route.stop === "fell back";
  const [head, tail] = inPieces(route.path);
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={() => choose(chosen ? "" : route.name)}
      className={`${narrow ? NARROW : WIDE} route-line min-h-[34px] w-full cursor-pointer text-left hover:bg-[var(--hover)] ${chosen ? "bg-[var(--mark)]" : ""}`}
    >
      <span className="font-mono text-[12.5px] font-semibold">{route.method} </span>
      <span className={`truncate font-mono text-[13px] ${band ? "" : "col-span-2"}`} title={`${route.path}\n${route.handler} ${route.file}:${route.line}`}>
        {head && (
          <span className="quiet inline-block truncate align-bottom" style={{ maxWidth: `calc(100% - ${tail.length + (route.added || route.described ? NOTED : 0)}ch)` }}>
            {head}
          </span>
        )}
        {tail}
        {route.added && (
          <b className="ml-2 font-sans text-[12px] text-[var(--rose-text)]" title="The old side got it after the move began">
            added
          </b>
        )}
        {route.described && (
          <span className="quiet ml-2 font-sans text-[12px]" title="A description of the interface has it, the code does not">
            described only
          </span>
        )}
      </span>
      {band && (
        <span className="min-w-0">
          <b className="block truncate text-[13.5px] leading-tight" title={band.name}>
            {band.name}
          </b>
          <span className="quiet block truncate text-[12px] leading-tight" title={band.told}>
            {band.told}
          </span>
        </span>
      )}
      <span className="text-right text-[13px] tabular-nums">{counted ? calls(route.weekly) : "–"}</span>
      {!narrow && (
      <span aria-hidden="true">
        <span className="block h-[11px] bg-[var(--line)] opacity-60" style={{ width: `${Math.max((route.weekly / most) * 100, route.weekly > 0 ? 1 : 0)}%` }} />
      </span>
      )}
      <Track route={route} />
      {!narrow && <AnswerStrip strip={route.strip} />}
      <span className={`truncate text-[13px] ${stops ? "font-semibold text-[var(--rose-text)]" : route.stop === null && route.next_standing ? "font-semibold text-[var(--press)]" : "quiet"}`} title={route.fell_back || route.told}>
        {route.told}
      </span>
    </button>
  );
}
