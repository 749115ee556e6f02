const encoder = new TextEncoder();

/** Characters of a row before a column that counts bytes of UTF-8, as scans do. */
export function charactersBefore(row: string, bytes: number): number {
  let [at, used] = [0, 0];
  for (const sign of row) {
    if (used >= bytes) break;
    used += encoder.encode(sign).length;
    at += sign.length;
  }
  return at;
}
