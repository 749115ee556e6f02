/** Lines of `name = value` as a form; what has no sign of equality is a field without a value. */
export function formOf(text: string): Record<string, string> {
  const rows = text.split("\n").map((row) => row.trim()).filter(Boolean);
  return Object.fromEntries(
    rows.map((row) => {
      const at = row.indexOf("=");
      return at < 0 ? [row, ""] : [row.slice(0, at).trim(), row.slice(at + 1).trim()];
    }),
  );
}
