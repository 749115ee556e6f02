/** Many applications that nothing requires, as names by team: their lines to the libraries are told by colour when one is pressed. */
import type { LinksView } from "../../api/types";
import { plural, shortDay } from "../../lib/format";

type Application = LinksView["applications"][number];
export type Tone = "here" | "frees" | "blocks" | "other";

export const TONES: Record<Tone, { background: string; color?: string; opacity: number }> = {
  here: { background: "var(--sheet)", opacity: 1 },
  frees: { background: "var(--day)", color: "var(--on-light)", opacity: 1 },
  blocks: { background: "var(--mark)", opacity: 1 },
  other: { background: "var(--sheet)", opacity: 0.45 },
};

export function UsersByTeam({ applications, tone, chosen, choose }: { applications: Application[]; tone: (slug: string) => Tone; chosen: string; choose: (slug: string) => void }) {
  return (
    <div className="mt-2">
      {byTeam(applications).map(([team, held]) => (
        <section key={team} aria-label={team} className="grid grid-cols-[130px_1fr] gap-3 border-t py-1.5 hair">
          <h3 className="truncate text-[14px] font-bold" title={team}>
            {team}
            <span className="quiet block text-[12.5px] font-normal">{plural(held.length, "application")}</span>
          </h3>
          <ul className="flex flex-wrap gap-1.5">
            {held.map((a) => (
              <li key={a.slug}>
                <button
                  type="button"
                  aria-pressed={chosen === a.slug}
                  className={`max-w-[230px] truncate rounded-[4px] border px-1.5 text-[12.5px] leading-[20px] ${a.vendor ? "border-dashed" : ""} ${chosen === a.slug ? "outline-2 outline-[var(--press)]" : ""}`}
                  style={{ ...TONES[tone(a.slug)], borderColor: "var(--line)" }}
                  onClick={() => choose(a.slug)}
                  title={`${a.name}, ${a.stages === 0 ? "nothing left to move" : a.arrives ? `live ${shortDay(a.arrives)}` : "no day known"}`}
                >
                  {a.name}
                </button>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

/** Applications by team: the largest team first, those without one last. */
export function byTeam(applications: Application[]): [string, Application[]][] {
  const held = new Map<string, Application[]>();
  for (const a of applications) held.set(a.team || "no team", [...(held.get(a.team || "no team") ?? []), a]);
  const last = (team: string) => (team === "no team" ? 1 : 0);
  return [...held].sort(([a, x], [b, y]) => last(a) - last(b) || y.length - x.length || a.localeCompare(b));
}
