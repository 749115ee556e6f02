/** How chances and slips are said. */

/** ``24 %``, ``under 1 %``, ``over 99 %``: never rounded to certainty. */
export function chance(share: number): string {
  if (share <= 0) return "0 %";
  if (share < 0.01) return "under 1 %";
  if (share < 1 && share > 0.99) return "over 99 %";
  return `${Math.round(share * 100)} %`;
}

/** Days by which something slips: ``12 d later``, ``3 d sooner``. */
export function slip(days: number | null): string {
  if (days === null) return "never";
  return days === 0 ? "the same day" : `${Math.abs(days)} d ${days > 0 ? "later" : "sooner"}`;
}

/** ``3.6, 3.9 and 3.13``. */
export function listed(words: string[]): string {
  return words.length < 2 ? (words[0] ?? "") : `${words.slice(0, -1).join(", ")} and ${words.at(-1) ?? ""}`;
}
