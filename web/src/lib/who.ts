/** The name chosen in the top bar, kept in this browser. */
const KEY = "yoake.who";

export function who(): string {
  return localStorage.getItem(KEY) ?? "";
}

export function setWho(name: string): void {
  localStorage.setItem(KEY, name.trim());
}
