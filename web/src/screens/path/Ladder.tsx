/** The ladder: coordinates down, stages across; what changes is inked, what moves together is linked, each with its steps. */
import { Link } from "react-router";

import type { PathView, Stage } from "../../api/types";
import { day, effort, plural } from "../../lib/format";

const FIRST = "sticky left-0 z-[1] pr-3";

export function Ladder({ path }: { path: PathView }) {
  const names = new Map(path.application.today.map((l) => [l.coordinate, l.name]));
  for (const stage of path.stages) for (const move of stage.moves) names.set(move.coordinate, move.name);
  const coordinates = [...new Set(path.stages.flatMap((stage) => Object.keys(stage.state)))];
  return (
    <div className="overflow-x-auto pt-3" tabIndex={0} role="region" aria-label="Stages">
      <table className="border-separate border-spacing-0 text-[14px]">
        <thead>
          <tr className="align-bottom">
            <td className={`${FIRST} w-[170px] min-w-[170px]`} style={{ background: "var(--paper)" }} />
            {path.stages.map((stage) => (
              <th key={stage.number} scope="col" className="min-w-[230px] pr-6 pb-2 text-left font-normal">
                <StageHead stage={stage} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {coordinates.map((purl) => (
            <tr key={purl}>
              <th scope="row" className={`${FIRST} border-b py-1.5 text-left font-normal hair`} style={{ background: "var(--paper)" }}>
                <code>{names.get(purl) ?? purl}</code>
              </th>
              {path.stages.map((stage) => (
                <td key={stage.number} className="border-b py-1 hair">
                  <Cell stage={stage} purl={purl} />
                </td>
              ))}
            </tr>
          ))}
          <tr className="align-top">
            <th scope="row" className={`${FIRST} pt-3 text-left font-normal`} style={{ background: "var(--paper)" }}>
              <span className="quiet">steps</span>
            </th>
            {path.stages.map((stage) => (
              <td key={stage.number} className="max-w-[300px] pt-3 pr-6">
                <Steps stage={stage} slug={path.application.slug} />
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </div>
  );
}

function StageHead({ stage }: { stage: Stage }) {
  const open = stage.steps.filter((s) => s.state !== "closed").length;
  if (stage.number === 0) {
    return (
      <>
        <b className="block text-[15.5px]">Before any version moves</b>
        <span className="quiet text-[13px]">
          {open === 0 ? "nothing left to change" : `${plural(open, "change")} ${open === 1 ? "is" : "are"} safe now`} · {effort(stage.effort50)}
        </span>
      </>
    );
  }
  return (
    <>
      <b className="block text-[15.5px]">Stage {stage.number}</b>
      <span className="quiet block text-[13px]">
        {open === 0 ? "no change goes with it" : `${plural(open, "change")} ${open === 1 ? "goes" : "go"} with it`} · {effort(stage.effort50)} · by {day(stage.arrives50)}
      </span>
    </>
  );
}

function Cell({ stage, purl }: { stage: Stage; purl: string }) {
  const move = stage.moves.find((m) => m.coordinate === purl);
  const line = stage.state[purl] ?? "";
  if (!move) return <span className="code quiet px-2">{line}</span>;
  const ends = move.support_ends ? `support ends ${day(move.support_ends)}` : "support end not known";
  return (
    <span className="flex items-center gap-2" title={`${move.name} ${move.start} → ${move.goal}, ${ends}${move.kind === "long-term" ? ", long-term" : ""}`}>
      <span className="code min-w-16 rounded px-2 py-0.5 font-semibold" style={{ background: "var(--amber)", color: "var(--on-light)" }}>
        {move.goal}
      </span>
      {stage.moves.length > 1 && <Linked />}
    </span>
  );
}

/** Linked squares: these move together. */
function Linked() {
  return (
    <svg viewBox="0 0 16 16" width="15" height="15" role="img" aria-label="moves together with the other marked line">
      <path d="M8 0V4.5M8 11.5V16" stroke="var(--ink)" strokeWidth="1.3" />
      <rect x="4.5" y="4.5" width="7" height="7" fill="none" stroke="var(--ink)" strokeWidth="1.3" />
    </svg>
  );
}

const MOST = 14;

function Steps({ stage, slug }: { stage: Stage; slug: string }) {
  return (
    <>
      {stage.reasons.map((reason) => (
        <p key={reason} className="quiet mb-2 text-[13px]">
          {reason}
        </p>
      ))}
      <ul className="flex flex-col gap-1">
        {stage.steps.slice(0, MOST).map((step) => (
          <li key={step.id} className="flex gap-2 leading-snug">
            <span aria-hidden="true" className="quiet">
              –
            </span>
            <Link to={`/applications/${slug}/work?step=${step.id}`} className={`min-w-0 break-words hover:underline ${step.state === "closed" || step.waived ? "quiet line-through" : ""}`}>
              {step.title}
              {step.state !== "closed" && step.places > 1 ? `, ${step.places} places` : ""}
              {step.state === "reopened" ? " (found again)" : ""}
            </Link>
          </li>
        ))}
      </ul>
      {stage.steps.length > MOST && (
        <Link className="quiet mt-1 block underline" to={`/applications/${slug}/work`}>
          and {stage.steps.length - MOST} more
        </Link>
      )}
    </>
  );
}
