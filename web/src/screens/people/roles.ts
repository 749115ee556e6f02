/** What somebody may do, the least first; each may also do what those before may. */
export const ROLES: [string, string][] = [
  ["reader", "reads everything"],
  ["member", "works on steps and scans"],
  ["lead", "adds applications, waives, adopts paths"],
  ["admin", "makes accounts"],
];
