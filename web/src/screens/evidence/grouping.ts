/** What a line of the list of findings says. */
import type { FindingRow } from "../../api/types";

export const WINDOW_WORDS: Record<string, string> = { now: "now", hop: "at the hop", switch: "needs a switch", unknown: "not known" };

export function whenWord(finding: FindingRow): string {
  if (finding.level === "note") return "";
  if (finding.copies_only) return "in copies";
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
