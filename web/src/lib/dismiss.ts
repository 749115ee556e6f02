/** Close what lies open when a person presses elsewhere or Escape. */
import { type RefObject, useEffect } from "react";

export function useDismiss(open: boolean, box: RefObject<HTMLElement | null>, close: () => void): void {
  useEffect(() => {
    if (!open) return;
    const listen = (event: Event) => {
      if (event instanceof KeyboardEvent ? event.key === "Escape" : !box.current?.contains(event.target as Node)) close();
    };
    document.addEventListener("mousedown", listen);
    document.addEventListener("keydown", listen);
    return () => {
      document.removeEventListener("mousedown", listen);
      document.removeEventListener("keydown", listen);
    };
  }, [open, box, close]);
}
