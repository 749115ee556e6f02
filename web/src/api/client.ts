/** Calls to the server; every failure is one of a closed set. */
import { API } from "./address";
import { who } from "../lib/who";

export type Failure =
  | { kind: "refused"; status: number; problem: string; faults: string[] }
  /** Somebody else changed the record meanwhile; ``current`` is how it is now, null where it is gone. */
  | { kind: "outdated"; problem: string; faults: string[]; current: unknown }
  | { kind: "unreachable"; problem: string; faults: string[] };

export class ApiError extends Error {
  readonly failure: Failure;

  constructor(failure: Failure) {
    super(failure.problem);
    this.failure = failure;
  }
}

export async function call<T>(path: string, options: RequestInit = {}): Promise<T> {
  const headers = new Headers(options.headers);
  headers.set("X-Yoake-Who", encodeURIComponent(who()));
  if (typeof options.body === "string") headers.set("Content-Type", "application/json");
  let response: Response;
  try {
    response = await fetch(`${API}${path}`, { ...options, headers });
  } catch {
    throw new ApiError({ kind: "unreachable", problem: "Yoake does not answer. Is the server still running?", faults: [] });
  }
  if (!response.ok) throw new ApiError(await refused(response));
  if (response.status === 204) return undefined as T;
  return (await response.json()) as T;
}

async function refused(response: Response): Promise<Failure> {
  const body: unknown = await response.json().catch(() => null);
  const said = body as { problem?: string; faults?: string[]; current?: unknown } | null;
  const problem = said?.problem ?? `The server answered ${response.status} without a reason.`;
  const faults = said?.faults ?? [problem];
  if (said && "current" in said) return { kind: "outdated", problem, faults, current: said.current };
  return { kind: "refused", status: response.status, problem, faults };
}

/** What stands there now, when that is why a change was refused; undefined for every other error. */
export function currentOf<T>(error: unknown): T | null | undefined {
  return error instanceof ApiError && error.failure.kind === "outdated" ? (error.failure.current as T | null) : undefined;
}

/** An error in words. */
export const problemOf = (error: unknown) => (error instanceof Error ? error.message : String(error));

export const post = <T>(path: string, body: unknown) => call<T>(path, { method: "POST", body: JSON.stringify(body) });
export const patch = <T>(path: string, body: unknown) => call<T>(path, { method: "PATCH", body: JSON.stringify(body) });
export const put = <T>(path: string, body: unknown) => call<T>(path, { method: "PUT", body: JSON.stringify(body) });
export const remove = <T = undefined>(path: string) => call<T>(path, { method: "DELETE" });
