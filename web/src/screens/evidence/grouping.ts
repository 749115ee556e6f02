/** How the list of findings is laid out: a head for each cause, then its findings, at positions that do not depend on what is loaded. */
import type { Cause, FindingRow } from "../../api/types";

export type Line = { kind: "cause"; cause: Cause } | { kind: "finding"; index: number };

export const WINDOW_WORDS: Record<string, string> = { now: "now", hop: "at the hop", switch: "needs a switch", unknown: "not known" };

/** Lines of the list: every cause and every finding has one. */
export function lineCount(causes: Cause[]): number {
  return causes.reduce((sum, cause) => sum + 1 + cause.findings, 0);
}

/** What stands at a line of the list. */
export function lineAt(causes: Cause[], at: number): Line | null {
  let left = at;
  let index = 0;
  for (const cause of causes) {
    if (left === 0) return { kind: "cause", cause };
    if (left <= cause.findings) return { kind: "finding", index: index + left - 1 };
    left -= cause.findings + 1;
    index += cause.findings;
  }
  return null;
}

/** The line at which a finding stands, by its number among all that fit. */
export function lineOf(causes: Cause[], index: number): number {
  let before = 0;
  let heads = 0;
  for (const cause of causes) {
    heads += 1;
    if (index < before + cause.findings) break;
    before += cause.findings;
  }
  return index + heads;
}

export function whenWord(finding: FindingRow): string {
  if (finding.level === "note") return "";
  if (finding.kind === "toolchain" || finding.kind === "package") return finding.bites_line ? `with ${finding.bites_line}` : "";
  return WINDOW_WORDS[finding.window] ?? "";
}

/** The last two or three parts say what it is; the tooltip has all. */
export function shortened(path: string): string {
  const parts = path.split(".");
  return parts.length > 3 ? parts.slice(-2).join(".") : path;
}

export function summary(finding: FindingRow): string {
  if (finding.level === "warning" && finding.confidence === "possible") return "may fail; not certain";
  if (finding.kind === "deprecated") return "works, with a warning";
  if (finding.replacement === "none") return finding.remedy || "drop it";
  if (finding.replacement) return `${finding.kind}; use ${finding.replacement}`;
  return finding.remedy || finding.kind;
}
