/** Stages against their evidence: a column a stage, a row a kind of evidence. */
import type { GateItem, ProofStage } from "../../api/types";
import { Sun } from "../../components/Sun";
import { shortDay } from "../../lib/format";

const TITLES: Record<GateItem["key"], [string, string]> = {
  scan: ["a scan finds none of its changes", "the newest scan of the source"],
  tests: ["tests on both sides", "the stage before, and this one"],
  looks: ["someone looked", "at behaviour that changes"],
  checks: ["checks elsewhere", "reports that other machines sent"],
  routes: ["routes on the new side", "as Crossing moved them"],
};
const KEYS: GateItem["key"][] = ["scan", "tests", "looks", "routes", "checks"];
/** Rows that are only there once a stage needs them. */
const AT_NEED: ReadonlySet<GateItem["key"]> = new Set(["checks", "routes"]);
const SHADE: Record<GateItem["state"], string> = {
  there: "bg-[var(--day)] text-[var(--on-light)] border-transparent",
  part: "bg-[var(--mark)] border-[var(--amber)]",
  breaks: "bg-[var(--mark)] border-[var(--rose-text)] border-2",
  stale: "bg-[var(--mark)] border-dashed border-[var(--line)]",
  "not yet": "sheet hair",
  "not needed": "border-transparent",
};
const WORD: Record<GateItem["state"], string> = { there: "there", part: "in part", breaks: "breaks", stale: "stale", "not yet": "not yet", "not needed": "not needed" };

type Props = { stages: ProofStage[]; chosen: number; choose: (stage: number) => void };

export function GateGrid({ stages, chosen, choose }: Props) {
  return (
    <table className="border-separate border-spacing-x-3 border-spacing-y-2 text-left">
      <thead>
        <tr>
          <td className="sticky left-0 z-[1] bg-[var(--paper)]" />
          {stages.map((stage) => (
            <th key={stage.number} scope="col" className="min-w-[136px] px-1 pb-1 align-bottom font-normal">
              <button type="button" className={`flex w-full items-end justify-between gap-2 border-b-2 pb-0.5 text-left ${stage.number === chosen ? "border-[var(--ink)]" : "border-transparent hover:border-[var(--rule)]"}`} aria-pressed={stage.number === chosen} onClick={() => choose(stage.number)}>
                <span>
                  <b className="block text-[15.5px] leading-tight">{stage.title}</b>
                  <code className="text-[12.5px]">{stage.lines}</code>
                </span>
                <Sun share={stage.light === "proven" ? 1 : stage.light === "here" ? 0.45 : 0} />
              </button>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {KEYS.filter((key) => !AT_NEED.has(key) || stages.some((stage) => stage.items.some((item) => item.key === key && item.state !== "not needed"))).map((key) => (
          <tr key={key}>
            <th scope="row" className="sticky left-0 z-[1] w-[250px] min-w-[205px] bg-[var(--paper)] pr-3 align-top font-normal">
              <b className="block text-[14.5px] leading-snug">{TITLES[key][0]}</b>
              <span className="quiet text-[12.5px]">{TITLES[key][1]}</span>
            </th>
            {stages.map((stage) => (
              <Cell key={stage.number} item={stage.items.find((item) => item.key === key)} />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Cell({ item }: { item: GateItem | undefined }) {
  if (!item) return <td />;
  const when = item.at ? shortDay(item.at) : "";
  return (
    <td className={`h-[46px] rounded-[5px] border px-2.5 py-1 align-top leading-tight ${SHADE[item.state]}`} title={[item.said, when, item.who].filter(Boolean).join(" · ")}>
      <b className={`block text-[13.5px] ${item.state === "not yet" || item.state === "not needed" ? "font-normal" : ""}`}>{WORD[item.state]}</b>
      <span className={`line-clamp-2 text-[12.5px] break-words ${item.state === "there" ? "" : "quiet"}`}>{item.state === "not needed" ? "" : [item.said, item.state === "there" ? when : ""].filter(Boolean).join(", ")}</span>
    </td>
  );
}
