/** Steps: one finding's changes each, a commit of their own. */
import type { EditStep } from "../../api/types";
import { plural } from "../../lib/format";
import { shortened, without } from "./choice";

type Props = { steps: EditStep[]; chosen: Set<string>; choose: (keys: Set<string>) => void };

export function Steps({ steps, chosen, choose }: Props) {
  if (steps.length === 0) return null;
  const all = chosen.size === steps.length;
  return (
    <section aria-label="Steps" className="mb-4">
      <h2 className="mb-1 flex items-baseline justify-between text-[15.5px] font-bold">
        {plural(steps.length, "step")}
        <button type="button" className="quiet text-[13px] font-normal underline" onClick={() => choose(all ? new Set() : new Set(steps.map((s) => s.key)))}>
          {all ? "none" : "all"}
        </button>
      </h2>
      <ul className="flex flex-col gap-1.5">
        {steps.map((step) => (
          <li key={step.key}>
            <label className="flex items-baseline gap-2 text-[14px] leading-snug">
              <input type="checkbox" className="checkbox checkbox-xs translate-y-[2px]" checked={chosen.has(step.key)} onChange={() => choose(without(chosen, step.key))} />
              <span className="min-w-0 break-words">
                <Name step={step} />
                <span className="quiet block text-[12.5px]">
                  {plural(step.places, "place")} in {plural(step.files.length, "file")}
                  {step.safe ? "" : "; only together with the move"}
                </span>
              </span>
            </label>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What a step writes: one name for another, or the releases of a stage. */
function Name({ step }: { step: EditStep }) {
  if (step.key === "move") return <>the releases of this stage, in manifests and pins</>;
  if (step.new === "") return <>{step.old}</>;
  return (
    <>
      <code className="[overflow-wrap:anywhere]">{step.old}</code>
      {step.new === "none" ? " taken out" : " → "}
      {step.new !== "none" && <code className="[overflow-wrap:anywhere]">{shortened(step.old, step.new)}</code>}
    </>
  );
}
