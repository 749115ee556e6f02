/** Shares of teams as a person writes them: “Sales 70, Platform 30”. */

export function writeShares(teams: Record<string, number>): string {
  const held = Object.entries(teams);
  return held.length < 2 ? "" : held.map(([name, share]) => `${name} ${Math.round(share * 1000) / 10}`).join(", ");
}

/** Shares that add up to 1; a team without a figure counts as much as any other without one. */
export function readShares(text: string): Record<string, number> {
  const parts = text
    .split(",")
    .map((part) => part.trim())
    .filter((part) => part !== "")
    .map((part): [string, number] => {
      const found = /^(.*?)\s+([\d.]+)\s*%?$/.exec(part);
      return found?.[1] && found[2] ? [found[1], Number(found[2])] : [part, 1];
    });
  const total = parts.reduce((sum, [, share]) => sum + share, 0);
  return Object.fromEntries(parts.map(([name, share]) => [name, total > 0 ? share / total : 0]));
}
