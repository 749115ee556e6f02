/** How figures are written: dates as 12 Mar 2027, durations as 6 w, effort as 3.5 d. */
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"] as const;
export const DAY = 86_400_000;

/** A calendar date (2027-03-12) as midnight UTC, so that no zone moves it. */
export function dateOf(iso: string): number {
  return Date.parse(`${iso.slice(0, 10)}T00:00:00Z`);
}

export function day(iso: string | null | undefined): string {
  if (!iso) return "not known";
  const at = new Date(dateOf(iso));
  return `${at.getUTCDate()} ${MONTHS[at.getUTCMonth()] ?? ""} ${at.getUTCFullYear()}`;
}

/** A date where space is short: 12 Mar ’27. */
export function shortDay(iso: string): string {
  return day(iso).replace(/ 20(\d\d)$/, " ’$1");
}

/** A moment in the reader's zone. */
export function moment(iso: string | null | undefined): string {
  if (!iso) return "never";
  const at = new Date(iso);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${at.getDate()} ${MONTHS[at.getMonth()] ?? ""} ${at.getFullYear()}, ${two(at.getHours())}:${two(at.getMinutes())}`;
}

/** Days as weeks with their sign: −38 w; under a week in days. */
export function signedWeeks(days: number): string {
  const sign = days < 0 ? "−" : "+";
  const size = Math.abs(days);
  return size < 7 ? `${sign}${size} d` : `${sign}${Math.round(size / 7)} w`;
}

export function effort(days: number): string {
  if (days > 0 && days < 0.05) return "<0.1 d";
  return `${days >= 10 ? Math.round(days) : days.toFixed(1)} d`;
}

export function minutes(value: number): string {
  if (value < 90) return `${Math.round(value)} min`;
  return `${(value / 60).toFixed(1)} h`;
}

/** A share as a whole percentage that never rounds up to 100 or hides the last bit. */
export function percent(share: number): string {
  return `${Math.floor(share * 100 + 1e-9)} %`;
}

const FIGURES = new Intl.NumberFormat("en"); // making one for each figure is what takes long in a list

/** A whole number with its thousands apart. */
export function figure(value: number): string {
  return FIGURES.format(value);
}

export function plural(count: number, one: string, many = `${one}s`): string {
  return `${figure(count)} ${count === 1 ? one : many}`;
}

export function seconds(value: number): string {
  return value < 90 ? `${Math.ceil(value)} s` : `${Math.ceil(value / 60)} min`;
}
