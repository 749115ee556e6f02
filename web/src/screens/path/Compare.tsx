/** Two ways stage by stage: what each moves, what goes with it, and what is only in one of them. */
import type { PathView, Stage, Way } from "../../api/types";
import { day, effort, plural } from "../../lib/format";

type Props = { path: PathView; way: Way; other: Way; close: () => void };

export function Compare({ path, way, other, close }: Props) {
  const rows = Math.max(way.stages.length, other.stages.length);
  return (
    <section aria-label={`${way.title} and ${other.title}`} className="pt-3">
      <div className="flex items-baseline gap-4">
        <h2 className="text-[16px] font-bold">Stage by stage</h2>
        <button type="button" className="press press-quiet" onClick={close}>
          Close
        </button>
      </div>
      <table className="w-full table-fixed text-[14px]">
        <thead>
          <tr className="text-left">
            <th className="w-24 font-normal" />
            <th>{way.title}</th>
            <th>{other.title}</th>
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: rows }, (_, i) => (
            <tr key={i} className="align-top">
              <th scope="row" className="quiet border-t py-1.5 text-left font-normal hair">
                {i === 0 ? "before" : `stage ${i}`}
              </th>
              <Side stage={way.stages[i]} other={other} path={path} />
              <Side stage={other.stages[i]} other={way} path={path} />
            </tr>
          ))}
          <tr>
            <th scope="row" className="quiet border-t py-1.5 text-left font-normal hair">
              in all
            </th>
            {[way, other].map((w) => (
              <td key={w.key} className="border-t py-1.5 hair">
                {effort(w.effort50)}–{effort(w.effort80)}, {w.dark_days} days in the dark, arrives <b>{day(w.arrival50)}</b>
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </section>
  );
}

function Side({ stage, other, path }: { stage: Stage | undefined; other: Way; path: PathView }) {
  if (!stage) return <td className="quiet border-t py-1.5 hair">has arrived</td>;
  const names = new Map(path.tracks.map((t) => [t.coordinate, t.name]));
  const moves = stage.cells.filter((c) => c.moved);
  const theirs = new Set(other.stages.find((s) => s.number === stage.number)?.edits.map((e) => e.key));
  const own = stage.edits.filter((e) => !theirs.has(e.key));
  return (
    <td className="border-t py-1.5 pr-6 hair">
      <span className="block">
        {stage.title ? `${stage.title}: ` : ""}
        {moves.map((c) => `${names.get(c.coordinate) ?? c.coordinate} ${c.line}`).join(", ") || "no line moves"}
      </span>
      <span className="quiet block text-[13px]">
        {plural(stage.edit_count, "change")}, {effort(stage.effort50)}, by {day(stage.arrives50)}
      </span>
      {stage.edit_count === stage.edits.length && own.length > 0 && own.length < stage.edits.length && <span className="block text-[13px]">only here: {own.slice(0, 4).map((e) => e.title).join("; ")}{own.length > 4 ? ` and ${own.length - 4} more` : ""}</span>}
    </td>
  );
}
