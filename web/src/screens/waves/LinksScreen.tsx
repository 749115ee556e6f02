/** Who waits for whom? Applications above the libraries of our own that they require; press one to see what it frees or blocks. */
import { useQuery } from "@tanstack/react-query";
import { useMemo, useRef } from "react";
import { Link } from "react-router";

import { linksQuery } from "../../api/queries";
import type { LinksView } from "../../api/types";
import { FilterField } from "../../components/FilterField";
import { Empty, Failed, Waiting } from "../../components/States";
import { useToast } from "../../components/Toasts";
import { day, plural, shortDay } from "../../lib/format";
import { useParam } from "../../lib/params";
import { useWidth } from "../../lib/width";
import { layout } from "../evidence/moduleLayout";
import { type Tone, TONES, UsersByTeam } from "./UsersByTeam";
import { WavesNav } from "./WavesNav";
import { listed } from "./words";

export default function LinksScreen() {
  const query = useQuery(linksQuery);
  if (query.isPending) return <Waiting what="who requires whom" />;
  if (query.isError) return <Failed error={query.error} again={() => void query.refetch()} />;
  return <Links view={query.data} />;
}

function Links({ view }: { view: LinksView }) {
  const [chosen, setChosen] = useParam("application");
  const [text, setText] = useParam("q");
  const field = useRef<HTMLInputElement>(null);
  const toast = useToast();
  const linked = useMemo(() => new Set(view.uses.flat()), [view.uses]);
  const shown = useMemo(() => view.applications.filter((a) => linked.has(a.slug) && `${a.name} ${a.team}`.toLowerCase().includes(text.toLowerCase())), [view.applications, linked, text]);
  const alone = view.applications.filter((a) => !linked.has(a.slug));
  const one = view.applications.find((a) => a.slug === chosen);
  const copy = () => void navigator.clipboard.writeText(view.mermaid).then(() => toast("The graph is in the clipboard, as Mermaid."), () => toast("The browser did not allow copying.", { bad: true }));
  return (
    <div className="page">
      <h1 className="mt-3 text-[25px] font-bold tracking-tight">{capital(view.heading)}</h1>
      <div className="mt-1 mb-3 flex items-center gap-4">
        <WavesNav />
        <span className="grow" />
        <button type="button" className="press" onClick={copy}>
          Copy as Mermaid
        </button>
        <FilterField field={field} label="Filter applications" value={text} set={setText} />
      </div>
      {view.circles.map((circle) => (
        <p key={circle.join()} className="mb-1 font-semibold text-[var(--rose-text)]">
          {circle.join(", ")} wait for one another: one of them has to serve both lines first.
        </p>
      ))}
      {linked.size === 0 ? (
        <Empty title="Nothing here requires anything else that is looked after here.">Libraries of our own are found by the names of their packages in manifests and lock files.</Empty>
      ) : (
        <div className="grid grid-cols-[minmax(0,1fr)_300px] gap-8">
          <Picture view={view} shown={shown} chosen={chosen} choose={(slug) => setChosen(slug === chosen ? "" : slug)} />
          {one ? <Detail view={view} slug={one.slug} /> : <p className="quiet pt-2 text-[14px]">Press an application to see what its move frees, and what it waits for.</p>}
        </div>
      )}
      {linked.size > 0 && alone.length > 0 && <p className="quiet mt-3 text-[14px]">{alone.length} stand alone: {alone.slice(0, 12).map((a) => a.name).join(", ")}{alone.length > 12 && " …"}</p>}
    </div>
  );
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

const FEW = 40; // boxes that can be drawn with all their lines and still be read

function Picture({ view, shown, chosen, choose }: { view: LinksView; shown: LinksView["applications"]; chosen: string; choose: (slug: string) => void }) {
  const ref = useRef<HTMLDivElement>(null);
  const width = useWidth(ref, 900);
  const libraries = new Set(view.uses.map(([library]) => library));
  const drawn = shown.length > FEW ? shown.filter((a) => libraries.has(a.slug)) : shown;
  const rest = shown.length > FEW ? shown.filter((a) => !libraries.has(a.slug)) : [];
  const held = new Map(drawn.map((a) => [a.slug, a]));
  const parts = drawn.map((a) => ({ path: a.slug, files: 0, lines: 0, cycle: a.circle ?? -1, level: a.layer, fails: 0, holds: 0 }));
  const edges = view.uses.flatMap(([library, user]) => (held.has(library) && held.has(user) ? [{ source: user, target: library, count: 1 }] : []));
  const made = layout(parts, edges, Math.max(width, 400), rest.length > 0 ? 26 : 0);
  const one = shown.find((a) => a.slug === chosen);
  const tone = (slug: string): Tone => (!one || slug === chosen ? "here" : one.frees.includes(slug) ? "frees" : one.blocks.includes(slug) ? "blocks" : "other");
  return (
    <div ref={ref} className="min-w-0 overflow-x-auto">
      <div className="relative" style={{ height: made.height }}>
        <svg width={Math.max(width, 400)} height={made.height} aria-hidden="true" className="absolute inset-0">
          {made.lines.map((line) => {
            const lit = one && [line.source, line.target].every((slug) => tone(slug) !== "other");
            return <path key={`${line.source}>${line.target}`} d={line.d} fill="none" stroke={lit ? "var(--ink)" : "var(--line)"} strokeWidth={lit ? 1.8 : 1.1} opacity={one && !lit ? 0.25 : 1} />;
          })}
        </svg>
        {made.boxes.map((box) => {
          const a = held.get(box.path);
          if (!a) return null;
          return (
            <button
              key={a.slug}
              type="button"
              aria-pressed={chosen === a.slug}
              className={`absolute rounded-[4px] border px-2 text-left text-[13px] leading-tight ${a.vendor ? "border-dashed" : ""} ${chosen === a.slug ? "outline-2 outline-[var(--press)]" : ""}`}
              style={{ left: box.x, top: box.y, width: box.width, height: box.height, borderColor: "var(--ink)", ...TONES[tone(a.slug)] }}
              onClick={() => choose(a.slug)}
              title={`${a.name}, ${a.team || "no team"}`}
            >
              <b className={`block truncate ${rest.length > 0 ? "pr-5" : ""}`}>{a.name}</b>
              <span className="block truncate text-[12px]">{a.vendor ? `by ${a.vendor}` : a.stages === 0 ? "nothing left" : a.arrives ? `live ${shortDay(a.arrives)}` : "no day known"}</span>
              {rest.length > 0 && <span className="absolute top-1.5 right-2 text-[12px]">{a.frees.length}</span>}
            </button>
          );
        })}
      </div>
      {rest.length > 0 && <p className="quiet mt-1 text-[12.5px]">The figure in a corner: how many its move frees.</p>}
      {rest.length > 0 && <UsersByTeam applications={rest} tone={tone} chosen={chosen} choose={choose} />}
    </div>
  );
}

/** The first names, and how many more the picture shows. */
const named = (names: string[]) => (names.length > 14 ? `${names.slice(0, 12).join(", ")} and ${names.length - 12} more, marked in the picture` : names.join(", "));

function Detail({ view, slug }: { view: LinksView; slug: string }) {
  const one = view.applications.find((a) => a.slug === slug);
  if (!one) return null;
  const name = (other: string) => view.applications.find((a) => a.slug === other)?.name ?? other;
  const bridges = view.bridges.filter((b) => b.slug === slug);
  return (
    <section aria-label={`Links of ${one.name}`} className="text-[14px]">
      <h2 className="text-[17px] font-bold">{one.name}</h2>
      <p className="quiet mb-2">
        {one.team || "no team"} · {one.stages === 0 ? "nothing left to move" : `${plural(one.stages, "stage")}, live ${day(one.arrives)}`} ·{" "}
        <Link to={`/applications/${slug}/path`} className="underline decoration-dotted underline-offset-4">
          Path
        </Link>
      </p>
      <h3 className="font-bold">Its move frees</h3>
      <p className="mb-2">{one.frees.length ? named(one.frees.map(name)) : <span className="quiet">nobody: nothing requires it</span>}</p>
      <h3 className="font-bold">It waits for</h3>
      <p className="mb-2">{one.blocks.length ? named(one.blocks.map(name)) : <span className="quiet">nobody: it requires nothing of our own</span>}</p>
      {bridges.map((b) => (
        <p key={b.coordinate}>
          It has to serve <b>{b.name} {listed(b.lines)}</b> from {day(b.since)} until {b.until ? day(b.until) : "a day that is not known"}, for {named(b.users)}.
        </p>
      ))}
    </section>
  );
}
