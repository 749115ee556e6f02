/** One route from nearby: what differs, where it may go, and what it drags along. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { routeQuery } from "../../api/queries";
import type { RouteDetail, RouteRow, Standing } from "../../api/types";
import { Failed, Waiting } from "../../components/States";
import { figure, moment } from "../../lib/format";
import { PartsDialog } from "./PartsDialog";
import { STOPS } from "./track";
import { useCrossing } from "./useCrossing";

type Props = { slug: string; name: string; close: () => void };

export function RoutePanel({ slug, name, close }: Props) {
  const query = useQuery(routeQuery(slug, name));
  return (
    <aside aria-label={`Route ${name}`} className="sheet sticky top-2 max-h-[calc(100vh-24px)] w-[370px] shrink-0 overflow-y-auto rounded-md border px-4 py-3 hair">
      <div className="flex items-start justify-between gap-3">
        <h2 className="min-w-0 font-mono text-[15px] font-bold break-words">{name}</h2>
        <button type="button" className="press press-quiet shrink-0" onClick={close}>
          Close
        </button>
      </div>
      {query.isPending && <Waiting what="the route" />}
      {query.isError && <Failed error={query.error} />}
      {query.data && <Body slug={slug} detail={query.data} />}
    </aside>
  );
}

function Body({ slug, detail }: { slug: string; detail: RouteDetail }) {
  const { route } = detail;
  return (
    <>
      <p className="quiet text-[13px]">
        <Link className="link" to={`/applications/${slug}?file=${encodeURIComponent(route.file)}&line=${route.line}`}>
          {route.handler || "the handler"} in {route.file}:{route.line}
        </Link>
      </p>
      <p className="mt-2 text-[14px] font-semibold">{route.told}</p>
      {route.fell_back && <p className="mt-1 text-[13.5px] text-[var(--rose-text)]">It fell back by itself: {route.fell_back}.</p>}
      <MovePart key={`${route.standing} ${route.share} ${route.fell_back}`} slug={slug} route={route} />
      <Differences slug={slug} detail={detail} />
      <NeedsPart slug={slug} detail={detail} />
      {detail.moves.length > 0 && (
        <>
          <h3 className="mt-4 text-[13.5px] font-bold">Moves</h3>
          <ul className="text-[13px]">
            {detail.moves.map((move) => (
              <li key={`${move.at}${move.told}`} className="py-0.5">
                <b>{move.told}</b> <span className="quiet">{`${moment(move.at)}, ${move.who}`}</span>
                {move.why && <span className="block">{move.why}</span>}
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}

function MovePart({ slug, route }: { slug: string; route: RouteRow }) {
  const { move, safe, retire } = useCrossing(slug);
  const [to, setTo] = useState<Standing>(route.next_standing ?? route.standing);
  const [share, setShare] = useState(route.next_share || route.share || 5);
  const [why, setWhy] = useState("");
  const same = to === route.standing && (to !== "shared" || share === route.share) && route.fell_back === "";
  const given = to === "shared" ? share : 0;
  return (
    <form
      aria-label="Move this route"
      className="mt-3 border-t pt-3 hair"
      onSubmit={(event) => {
        event.preventDefault();
        move.mutate({ routes: [route.name], standing: to, share: given, why, before: { standing: route.standing, share: route.share } });
      }}
    >
      <div className="flex flex-wrap items-center gap-2 text-[13.5px]">
        <label className="flex items-center gap-1.5">
          Move to
          <select className="field w-[112px]" value={to} onChange={(event) => setTo(event.target.value as Standing)}>
            {STOPS.map((stop) => (
              <option key={stop}>{stop}</option>
            ))}
          </select>
        </label>
        {to === "shared" && (
          <label className="flex items-center gap-1.5">
            Share
            <input className="field w-[64px] text-right" type="number" min={1} max={100} value={share} onChange={(event) => setShare(Number(event.target.value))} />%
          </label>
        )}
      </div>
      <div className="mt-2 flex gap-2">
        <input className="field grow" aria-label="Why" placeholder="why" value={why} onChange={(event) => setWhy(event.target.value)} />
        <button type="submit" className="press press-main" disabled={same || move.isPending}>
          Move
        </button>
      </div>
      {route.stop !== null && route.stop !== "fell back" && <p className="quiet mt-1 text-[12.5px]">It has not shown what it should: {route.told}. You may move it all the same.</p>}
      {route.stop === "nobody calls" && route.standing === "old" && (
        <p className="mt-2 flex items-center gap-2 text-[13px]">
          <button type="button" className="press" onClick={() => retire.mutate({ routes: [route.name], why })}>
            Retire it
          </button>
          <span className="quiet">Taking it out becomes a step.</span>
        </p>
      )}
      {route.method !== "GET" && route.method !== "HEAD" && (
        <label className="mt-2 flex items-center gap-2 text-[13px]">
          <input type="checkbox" checked={route.safe} onChange={(event) => safe.mutate({ route: route.name, safe: event.target.checked, why })} />
          May be asked of both sides: the new side stands on test data
        </label>
      )}
    </form>
  );
}

function Differences({ slug, detail }: { slug: string; detail: RouteDetail }) {
  const { mended } = useCrossing(slug);
  const { route } = detail;
  if (route.compared === 0 && detail.causes.length === 0) return null;
  return (
    <section aria-label="Answers" className="mt-4">
      <h3 className="text-[13.5px] font-bold">
        {route.alike} of {route.compared} answers alike
      </h3>
      {detail.new_ms > 0 && (
        <p className="quiet text-[12.5px]">
          median {detail.old_ms.toFixed(1)} ms on the old side, {detail.new_ms.toFixed(1)} ms on the new
        </p>
      )}
      {detail.causes.map((cause) => (
        <div key={`${cause.kind}${cause.where}`} className="mt-2 border-l-4 pl-2 text-[13px]" style={{ borderColor: "var(--rose)" }}>
          <b>
            {cause.pairs} × {cause.kind}
          </b>{" "}
          <span className="font-mono text-[12.5px] break-words">{cause.where}</span>
          {(cause.old || cause.new) && (
            <span className="block font-mono text-[12.5px]">
              {cause.old || "–"} → {cause.new || "–"}
            </span>
          )}
          <span className="quiet block font-mono text-[12px] break-words">{cause.example}</span>
        </div>
      ))}
      {detail.causes.length > 0 && (
        <button type="button" className="press mt-2" onClick={() => mended.mutate(route.name)}>
          Mended: count from now
        </button>
      )}
    </section>
  );
}

function NeedsPart({ slug, detail }: { slug: string; detail: RouteDetail }) {
  const { route, needs } = detail;
  const [picture, setPicture] = useState(false);
  const rest = [
    ["shared through a bridge", detail.bridged],
    ["left out", detail.left_out],
    ["tables", route.tables],
    ["templates", detail.templates],
    ["settings", detail.settings],
    ["packages", detail.packages],
  ] as const;
  return (
    <section aria-label="What it drags along" className="mt-4">
      <h3 className="text-[13.5px] font-bold">
        Drags along {figure(route.lines)} lines in {route.files} {route.files === 1 ? "file" : "files"}
      </h3>
      {route.lines > 0 && (
        <button type="button" className="press my-1" onClick={() => setPicture(true)}>
          Picture …
        </button>
      )}
      {picture && <PartsDialog slug={slug} name={route.name} close={() => setPicture(false)} />}
      <ul className="text-[12.5px]">
        {needs.slice(0, 14).map((need) => (
          <li key={`${need.file}${need.line}`} className="flex items-baseline justify-between gap-2 py-px">
            <span className="min-w-0 truncate font-mono" title={`${need.file}:${need.line}`}>
              {need.name}
            </span>
            <span className="quiet shrink-0">
              {need.lines} {need.lines === 1 ? "line" : "lines"}
              {need.others > 0 ? `, ${need.others} more need it` : ""}
            </span>
          </li>
        ))}
      </ul>
      {needs.length > 14 && <p className="quiet text-[12.5px]">and {needs.length - 14} more</p>}
      {rest.map(([what, names]) => names.length > 0 && <p key={what} className="mt-1 text-[12.5px] break-words">{`${what}: ${names.slice(0, 12).join(", ")}${names.length > 12 ? ` and ${names.length - 12} more` : ""}`}</p>)}
    </section>
  );
}

