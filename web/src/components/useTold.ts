/** Says an error at the foot of the page. */
import { problemOf } from "../api/client";
import { useToast } from "./Toasts";

export function useTold() {
  const say = useToast();
  return (error: unknown) => say(problemOf(error), { bad: true });
}
