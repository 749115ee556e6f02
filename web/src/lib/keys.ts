/** Keyboard: one listener, ignored while typing. */
import { useEffect, useRef } from "react";

export type Keymap = Record<string, (event: KeyboardEvent) => void>;

function typing(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  return target.isContentEditable ? !target.closest(".cm-editor") : ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName);
}

export function useKeys(map: Keymap): void {
  const latest = useRef(map);
  useEffect(() => {
    latest.current = map;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const name = `${event.ctrlKey || event.metaKey ? "mod+" : ""}${event.key}`;
      const action = latest.current[name];
      if (!action) return;
      if (!name.startsWith("mod+") && (typing(event.target) || document.querySelector("[role=dialog]"))) return;
      action(event);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
