/** The width of an element, followed as it changes. */
import { type RefObject, useEffect, useState } from "react";

export function useWidth(ref: RefObject<HTMLElement | null>, fallback: number): number {
  const [width, setWidth] = useState(fallback);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver((entries) => {
      const seen = entries[0]?.contentRect.width;
      if (seen) setWidth(Math.round(seen));
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [ref]);
  return width;
}
