/** The weights behind the figures. */
import type { EffortTable } from "../../api/types";

export function Efforts({ table }: { table: EffortTable }) {
  return (
    <section aria-label="Weights and efforts">
      <h2 className="text-[18px] font-bold">Weights and efforts</h2>
      <p className="quiet mb-2 text-[13.5px]">
        {table.source}. A day has {table.minutes_per_day} minutes of work; capacity {table.days_per_week} days a week unless set on the application; a stage costs {table.stage_base_days} d
        before its edits, {table.unseen.line_days} d for each line and {table.unseen.major_days} d for each major of a framework that it crosses, κ = {table.kappa}. What no scan sees spreads the days of
        a stage (σ = {table.unseen.spread} and more for lines, packages, what is not known and missing tests).
      </p>
      <div className="grid grid-cols-2 gap-10 text-[14px]">
        <Pairs title="weight of a check, minutes" pairs={Object.entries(table.weights).map(([name, value]) => [name.replace("_", " "), String(value)])} />
        <Pairs title="first place of a finding, minutes: low, likely, high" pairs={Object.entries(table.kinds).map(([name, value]) => [name, value.join(", ")])} />
      </div>
    </section>
  );
}

function Pairs({ title, pairs }: { title: string; pairs: [string, string][] }) {
  return (
    <div>
      <h3 className="quiet mb-1 text-[13px]">{title}</h3>
      <dl>
        {pairs.map(([name, value]) => (
          <div key={name} className="flex justify-between border-b py-0.5 hair">
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
