/** Which steps are listed, and in which order. */
import type { Step } from "../../api/types";

export type Whose = "everyone" | "me" | "nobody";
export type States = "open" | "closed" | "all";

export function listed(steps: Step[], options: { slug: string | null; whose: Whose; states: States; me: string; text: string }): Step[] {
  const words = options.text.toLowerCase().split(/\s+/).filter(Boolean);
  return steps
    .filter((step) => {
      if (options.slug !== null && step.slug !== options.slug) return false;
      if (options.whose === "me" && step.owner.toLowerCase() !== options.me.toLowerCase()) return false;
      if (options.whose === "nobody" && step.owner) return false;
      const open = step.state !== "closed" && !step.waived;
      if (options.states !== "all" && open !== (options.states === "open")) return false;
      const all = `${step.title} ${step.application} ${step.team} ${step.owner} ${step.state} ${step.note}`.toLowerCase();
      return words.every((word) => all.includes(word));
    })
    .sort(byUrgency);
}

/** What was found again first, then by due date, then what can be done first. */
export function byUrgency(a: Step, b: Step): number {
  const again = Number(b.state === "reopened") - Number(a.state === "reopened");
  if (again) return again;
  const due = (a.due ?? "9999").localeCompare(b.due ?? "9999");
  return due || a.stage - b.stage || a.application.localeCompare(b.application) || a.id - b.id;
}
