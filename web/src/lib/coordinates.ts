/** How a purl is written on the command line and in the address. */
export function shortOf(purl: string): string {
  return purl.replace(/^pkg:(generic\/)?/, "").replace("%40", "@");
}
